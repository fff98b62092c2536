import {
  FILL_SAW,
  type FillDeed,
  type FillDone,
  fillProblem,
  fillState,
  isBehind,
  phaseBehind,
  refillOf,
  stickMarks,
} from "@gearsense/core/fluid";
import type { EntryBodies } from "@gearsense/core/job";
import { numberIn } from "@gearsense/core/procedure";
import { fromDisplay, toDisplay, unitLabel } from "@gearsense/core/quantity";
import type { Unit } from "@gearsense/core/unit";
import { Check, Droplets, Undo2 } from "lucide-react";
import { useState } from "react";
import { useJob } from "../job/job-context.tsx";
import { useAddEntry } from "../offline/useAddEntry.ts";
import { useSettings } from "../settings/settings.tsx";
import { Button, Choice, Notice, SelectField } from "../shared/controls.tsx";
import { NumberField } from "../shared/NumberField.tsx";
import { useTicks } from "./useTicks.ts";

const DEEDS: Readonly<Record<FillDeed, string>> = {
  poured: "Poured",
  "let-out": "Let out",
  started: "Started, ranges cycled",
  temperature: "Temperature",
  overflow: "Plug out, read",
  stick: "Stick read",
  sight: "Filler hole read",
  drove: "Driven",
  leaks: "Leaks looked for",
};
const SAW: Readonly<Record<string, string>> = {
  "all-in": "all is in",
  "ran-over": "it ran over",
  quiet: "quiet",
  whine: "it whines",
  nothing: "nothing comes",
  drops: "drops",
  "stream-then-drops": "a stream, then drops",
  below: "below the edge",
  "at-the-edge": "at the edge",
  dry: "dry",
  weeps: "weeps",
  drips: "drips",
};
const MARKS = {
  full: "hot, upper mark",
  middle: "hot, between",
  add: "hot, lower mark",
  cold: "cold mark",
} as const;
const WITH_LITRES: ReadonlySet<FillDeed> = new Set<FillDeed>(["poured", "let-out", "stick"]);
const WITH_TEMPERATURE: ReadonlySet<FillDeed> = new Set<FillDeed>([
  "temperature",
  "overflow",
  "stick",
  "sight",
  "drove",
]);

/**
 * The fill as it is done: what to do next, how many litres and why; what was done so far, and one tap to take the last back.
 * @param stepId - of the plan's step that shows it: told when its part is done
 */
export function FillPanel({ stepId }: { stepId?: string | undefined }) {
  const { job, state, mayEdit } = useJob();
  const ticks = useTicks(job.id);
  const unit = job.unit as Unit;
  const waiting = ticks.waiting.filter((t) => !t.refused);
  const emptied = waiting.findLast((t) => t.kind === "emptied")?.body ?? state.emptied?.body;
  const done: FillDone[] = [
    ...state.filling.map((f) => f.body),
    ...waiting.flatMap((t) => (t.kind === "filling" ? [t.body] : [])),
  ];
  const [changing, setChanging] = useState(false);
  if (!emptied || changing)
    return <Emptied onDone={() => setChanging(false)} first={emptied as EntryBodies["emptied"] | undefined} />;
  const fill = fillState(unit, emptied as EntryBodies["emptied"], done);
  const phase = stepId === undefined ? undefined : phaseBehind(stepId);
  return (
    <section aria-label="Fill" className="flex flex-col gap-3 border-2 border-slate bg-panel p-4">
      <div className="flex items-start gap-3" role="status">
        <Droplets aria-hidden="true" className="mt-1 size-7 shrink-0 text-action" />
        <div>
          <p className="label text-2xl leading-8">{fill.ask.text}</p>
          <p>{fill.ask.why}</p>
        </div>
      </div>
      <Figures poured={fill.pouredL} missing={fill.missingL} unsure={fill.unsureL} expected={fill.expectedL} />
      <Shares unit={unit} emptied={emptied as EntryBodies["emptied"]} />
      {fill.told.map((t) => (
        <Notice key={t} tone="caution">
          {t}
        </Notice>
      ))}
      {phase !== undefined && isBehind(phase, fill.phase) && (
        <p className="border-l-4 border-clear bg-clear-wash p-2 font-semibold">
          This step’s part of the fill is done: tick it below.
        </p>
      )}
      {mayEdit && (
        <Deed
          unit={unit}
          fill={fill}
          onTell={(d) => ticks.write({ kind: "filling", body: { ...d, note: "" } }, DEEDS[d.deed], 0)}
        />
      )}
      <DoneSoFar />
      {mayEdit && (
        <Button className="self-start" onClick={() => setChanging(true)}>
          What left the unit
        </Button>
      )}
    </section>
  );
}

function Figures({
  poured,
  missing,
  unsure,
  expected,
}: {
  poured: number;
  missing: number;
  unsure: number;
  expected: number | undefined;
}) {
  const { show } = useSettings();
  const rows: [string, string][] = [
    ["Poured", show(poured, "volume")],
    ["Expected in all", expected === undefined ? "drain not measured" : show(expected, "volume")],
    [missing >= 0 ? "Still missing" : "Too much", `${show(Math.abs(missing), "volume")} ± ${show(unsure, "volume")}`],
  ];
  return (
    <dl className="grid grid-cols-3 gap-2 border-y border-rule py-2">
      {rows.map(([name, text]) => (
        <div key={name}>
          <dt className="label text-quiet">{name}</dt>
          <dd className="figures text-lg">{text}</dd>
        </div>
      ))}
    </dl>
  );
}

const SHARES = { drained: "drained", spilt: "spilt", lines: "cooler and lines", converter: "converter" } as const;

/** What the expected litres are made of, at the reference temperature. */
function Shares({ unit, emptied }: { unit: Unit; emptied: EntryBodies["emptied"] }) {
  const { show } = useSettings();
  if (emptied.dry)
    return (
      <p className="text-quiet">
        A dry unit takes the whole fill of {show(unit.fluid.totalL, "volume")}
        {emptied.prefilledL > 0 && `, less ${show(emptied.prefilledL, "volume")} in the converter`}.
      </p>
    );
  const { parts } = refillOf(unit, { ...emptied, drainedL: emptied.drainedL ?? unit.fluid.panDrainL });
  return (
    <p className="text-quiet">
      At {show(unit.fluid.level.referenceC, "temperature")}:{" "}
      {parts.map((p) => `${show(p.litres, "volume")} ${SHARES[p.what]}`).join(" + ")}
      {emptied.drainedL === null && " (by the unit file)"}
      {emptied.prefilledL > 0 && ` − ${show(emptied.prefilledL, "volume")} in the converter`}.
    </p>
  );
}

/** What is told of what was asked for; another deed can be chosen. */
function Deed({
  unit,
  fill,
  onTell,
}: {
  unit: Unit;
  fill: ReturnType<typeof fillState>;
  onTell: (d: FillDone) => Promise<void>;
}) {
  const { system } = useSettings();
  const asked = fill.ask.deed;
  const [other, setOther] = useState<FillDeed | undefined>();
  const deed = other ?? (asked === "done" || asked === "mend" ? (asked === "mend" ? "leaks" : undefined) : asked);
  const [litres, setLitres] = useState<number | null>(null);
  const [fluidC, setFluidC] = useState<number | null>(null);
  const [saw, setSaw] = useState("");
  // what is typed stands until it is told, whatever comes in from elsewhere meanwhile
  const tell = (d: FillDone) => {
    setOther(undefined);
    setLitres(null);
    setFluidC(null);
    setSaw("");
    void onTell(d);
  };
  const options = deed === undefined ? [] : FILL_SAW[deed].filter((s) => s !== "");
  const own: FillDone | undefined =
    deed === undefined
      ? undefined
      : {
          deed,
          litres: WITH_LITRES.has(deed) ? (litres ?? (deed === asked ? (fill.ask.litres ?? null) : null)) : null,
          fluidC: WITH_TEMPERATURE.has(deed) ? fluidC : null,
          saw: options.length === 0 ? "" : saw,
        };
  const problem = own && (options.length > 0 && saw === "" ? "say what was seen" : fillProblem(unit, fill, own));
  return (
    <div className="flex flex-col gap-3">
      {deed !== undefined && own && (
        <>
          <div className="grid gap-3 sm:grid-cols-2">
            {WITH_LITRES.has(deed) && (
              <NumberField
                label={`${deed === "stick" ? "Lower side from full, − is low" : `${DEEDS[deed]}`}, ${unitLabel("volume", system)}`}
                decimals={2}
                value={own.litres === null ? null : toDisplay(own.litres, "volume", system)}
                onChange={(v) => setLitres(v === null ? null : fromDisplay(v, "volume", system))}
              />
            )}
            {WITH_TEMPERATURE.has(deed) && (
              <NumberField
                label={`Fluid, ${unitLabel("temperature", system)}`}
                value={fluidC === null ? null : toDisplay(fluidC, "temperature", system)}
                onChange={(v) => setFluidC(v === null ? null : fromDisplay(v, "temperature", system))}
              />
            )}
          </div>
          {deed === "stick" && stickMarks(unit).length > 0 && (
            <fieldset className="flex flex-wrap items-center gap-2">
              <legend className="label">It stands at</legend>
              {stickMarks(unit).map((m) => (
                <Button key={m.id} onClick={() => setLitres(m.litresFromFull)}>
                  {MARKS[m.id]}
                </Button>
              ))}
            </fieldset>
          )}
          {options.length > 0 && (
            <Choice
              label="Seen"
              value={saw}
              onChange={setSaw}
              options={options.map((s) => ({ value: s, label: SAW[s] ?? s }))}
            />
          )}
          <div className="flex flex-wrap items-center gap-3">
            <Button
              className="min-h-14 border-slate px-6 text-xl"
              disabled={problem !== undefined}
              onClick={() => tell(own)}
            >
              <Check aria-hidden="true" className="size-6" />
              {DEEDS[deed]}
            </Button>
            {problem && <p className="text-quiet">{problem}.</p>}
          </div>
        </>
      )}
      <SelectField
        label="Something else was done"
        className="max-w-xs"
        value={other ?? ""}
        onChange={(e) => {
          setOther(e.target.value === "" ? undefined : (e.target.value as FillDeed));
          setSaw("");
        }}
      >
        <option value="">No, as asked</option>
        {(Object.keys(DEEDS) as FillDeed[]).map((d) => (
          <option key={d} value={d}>
            {DEEDS[d]}
          </option>
        ))}
      </SelectField>
    </div>
  );
}

function DoneSoFar() {
  const { job, state, mayEdit } = useJob();
  const { show } = useSettings();
  const add = useAddEntry(job.id);
  const last = state.filling.at(-1);
  if (!last) return null;
  return (
    <details>
      <summary className="label flex min-h-11 cursor-pointer items-center">
        Done so far ({state.filling.length})
      </summary>
      <ol className="list-decimal pl-6">
        {state.filling.map(({ id, body, author }) => (
          <li key={id}>
            {[
              DEEDS[body.deed],
              body.litres === null ? "" : show(body.litres, "volume"),
              body.fluidC === null ? "" : show(body.fluidC, "temperature"),
              SAW[body.saw] ?? body.saw,
              author,
            ]
              .filter(Boolean)
              .join(", ")}
          </li>
        ))}
      </ol>
      {mayEdit && (
        <Button
          disabled={add.isPending}
          onClick={() =>
            add.mutate({
              kind: "retraction",
              body: { entryId: last.id, reason: "told by mistake" },
              baseSeq: 0,
            } as never)
          }
        >
          <Undo2 aria-hidden="true" className="size-5" />
          Take back “{DEEDS[last.body.deed]}”
        </Button>
      )}
    </details>
  );
}

const number = (text: string | undefined) => {
  const n = numberIn(text ?? "");
  return Number.isFinite(n) ? n : null;
};

/** What left the unit: taken from what was measured at the drain, as far as it was. */
function Emptied({ first, onDone }: { first: EntryBodies["emptied"] | undefined; onDone: () => void }) {
  const { job, state } = useJob();
  const { system } = useSettings();
  const ticks = useTicks(job.id);
  const unit = job.unit as Unit;
  // those on their way to the server among them
  const steps = [
    ...state.steps.map((s) => s.body),
    ...ticks.waiting.flatMap((t) => (t.kind === "step" && !t.refused ? [t.body] : [])),
  ];
  const at = (step: string) => steps.find((s) => s.step === step);
  const measured = at("drain/measure")?.values;
  const known: EntryBodies["emptied"] = first ?? {
    drainedL: number(measured?.find((v) => v.id === "drained")?.value) ?? state.pan?.body.drainedL ?? null,
    drainedC: number(measured?.find((v) => v.id === "drained-at")?.value) ?? state.pan?.body.drainedC ?? null,
    spiltL: state.pan?.body.spiltL ?? 0,
    linesOpened: at("lines/off") !== undefined || (state.pan?.body.linesOpened ?? false),
    converterDrained: steps.some((s) => s.step.startsWith("converter/")),
    dry: steps.some((s) => /^(exchange-|rebuild\/)/.test(s.step)),
    prefilledL: number(at("converter-filled/pre-fill")?.values.find((v) => v.id === "pre-fill")?.value) ?? 0,
  };
  const [typed, setTyped] = useState<Partial<EntryBodies["emptied"]>>({});
  const value = { ...known, ...typed };
  const put = (patch: Partial<EntryBodies["emptied"]>) => setTyped({ ...typed, ...patch });
  const litres = (label: string, v: number | null, onChange: (v: number | null) => void) => (
    <NumberField
      label={`${label}, ${unitLabel("volume", system)}`}
      decimals={2}
      value={v === null ? null : toDisplay(v, "volume", system)}
      onChange={(x) => onChange(x === null ? null : fromDisplay(x, "volume", system))}
    />
  );
  const ticksOf: [keyof EntryBodies["emptied"], string, boolean][] = [
    ["linesOpened", "Cooler lines ran empty", (unit.fluid.coolerL ?? 0) > 0],
    ["converterDrained", "Converter drained, or another one", unit.converter !== undefined],
    ["dry", "Dry unit: exchanged, or rebuilt on the bench", true],
  ];
  return (
    <section aria-label="Fill" className="flex flex-col gap-3 border-2 border-slate bg-panel p-4">
      <h4 className="text-xl">What left the unit?</h4>
      <p className="text-quiet">
        The refill follows from this. Leave empty what wasn’t measured: the fill then goes in stages.
      </p>
      <div className="grid gap-3 sm:grid-cols-3">
        {!value.dry && litres("Drained", value.drainedL, (drainedL) => put({ drainedL }))}
        {!value.dry && (
          <NumberField
            label={`Its temperature, ${unitLabel("temperature", system)}`}
            value={value.drainedC === null ? null : toDisplay(value.drainedC, "temperature", system)}
            onChange={(v) => put({ drainedC: v === null ? null : fromDisplay(v, "temperature", system) })}
          />
        )}
        {!value.dry && litres("Spilt and in rags", value.spiltL, (v) => put({ spiltL: v ?? 0 }))}
        {(value.dry || value.converterDrained) &&
          unit.converter &&
          litres("Poured into the converter on the bench", value.prefilledL, (v) => put({ prefilledL: v ?? 0 }))}
      </div>
      <fieldset className="flex flex-col">
        <legend className="sr-only">What ran empty besides</legend>
        {ticksOf
          .filter(([, , has]) => has)
          .map(([key, words]) => (
            <label key={key} className="flex min-h-11 items-center gap-3">
              <input
                type="checkbox"
                className="size-6"
                checked={value[key] === true}
                onChange={(e) => put({ [key]: e.target.checked })}
              />
              {words}
            </label>
          ))}
      </fieldset>
      <Button
        className="min-h-14 self-start border-slate px-6 text-xl"
        onClick={() => {
          const body = value.dry ? { ...value, drainedL: null, drainedC: null } : value;
          void ticks.write({ kind: "emptied", body }, "What left the unit", state.emptied?.seq ?? 0).then(onDone);
        }}
      >
        Work out the fill
      </Button>
    </section>
  );
}
