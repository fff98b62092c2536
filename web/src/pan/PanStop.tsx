import type { Debris, DebrisKind, EntryBodies } from "@gearsense/core/job";
import { type DebrisKnowledge, debrisSources, drainedAs, pasteWithin } from "@gearsense/core/observe";
import { fromDisplay, toDisplay, unitLabel } from "@gearsense/core/quantity";
import clsx from "clsx";
import { useObservations } from "../api/queries.ts";
import { ReadingForm } from "../first-look/ReadingForm.tsx";
import { SURE } from "../first-look/RungCard.tsx";
import { FluidCondition } from "../fluid/FluidCondition.tsx";
import { Contradictions } from "../job/Contradictions.tsx";
import { useJob } from "../job/job-context.tsx";
import { useEntryForm } from "../job/useEntryForm.ts";
import { PhotoStrip } from "../photos/PhotoStrip.tsx";
import { useSettings } from "../settings/settings.tsx";
import { Cautions, type Holds, HoldsOpen, useHolds } from "../shared/Caution.tsx";
import { Choice, Heading, Notice } from "../shared/controls.tsx";
import { NumberField } from "../shared/NumberField.tsx";
import { DebrisDrawing } from "./DebrisDrawing.tsx";
import { RefillAndBolts } from "./RefillAndBolts.tsx";

type Pan = EntryBodies["pan"];

/** The pan is down: volume, fluid, what lies in it, on the magnet and in the filter. */
export default function PanStop() {
  const { state, mayEdit } = useJob();
  // what is drained already scalds nobody
  const names = ["under-vehicle", "hot-fluid", ...(state.pan || !mayEdit ? [] : ["hot-drain"]), "used-fluid"];
  const holds = useHolds(names);
  return (
    <>
      <Heading title="Pan">
        What was drained, what it looks like, and what lies in it. No debris is evidence too.
      </Heading>
      <div className="flex flex-col gap-5">
        <Cautions names={names} holds={holds} />
        <Contradictions />
        <PanForm holds={holds} />
        <FluidCondition withPhoto />
      </div>
    </>
  );
}

function PanForm({ holds }: { holds: Holds }) {
  const { job, state } = useJob();
  const { data } = useObservations();
  const { system, show } = useSettings();
  const form = useEntryForm<Pan>(
    "pan",
    "pan",
    state.pan,
    state.pan?.body ?? {
      drainedL: null,
      drainedC: null,
      kmSinceService: null,
      filter: "not-opened",
      debris: [],
      sure: "sure",
      note: "",
    },
  );
  const v = form.value;
  const drained = drainedAs(job.unit, v.drainedL, v.drainedC);
  const setDebris = (next: Debris) => form.set({ debris: [...v.debris.filter((d) => d.kind !== next.kind), next] });
  return (
    <ReadingForm
      form={form}
      label="Pan"
      action="Store what was found"
      primary={!state.pan}
      waits={holds.open.length > 0}
      before={<HoldsOpen holds={holds} />}
      title={<h2 className="text-xl">Drained, and what lies in it</h2>}
      fieldsClass="flex flex-col gap-4"
    >
      <div className="grid gap-3 sm:grid-cols-3">
        <NumberField
          label={`Volume drained, ${unitLabel("volume", system)}`}
          hint={`${show(job.unit.fluid.panDrainL, "volume", 1)} by the unit file`}
          value={v.drainedL === null ? null : toDisplay(v.drainedL, "volume", system)}
          onChange={(n) => form.set({ drainedL: n === null ? null : fromDisplay(n, "volume", system) })}
          error={form.errors.drainedL}
        />
        <NumberField
          label={`Drained at, ${unitLabel("temperature", system)}`}
          value={v.drainedC === null ? null : toDisplay(v.drainedC, "temperature", system)}
          onChange={(n) => form.set({ drainedC: n === null ? null : fromDisplay(n, "temperature", system) })}
          error={form.errors.drainedC}
        />
        <NumberField
          label={`Since the last service, ${unitLabel("distance", system)}`}
          hint="for what paste is normal"
          value={v.kmSinceService === null ? null : toDisplay(v.kmSinceService, "distance", system)}
          onChange={(n) => form.set({ kmSinceService: n === null ? null : fromDisplay(n, "distance", system) })}
          error={form.errors.kmSinceService}
        />
      </div>
      {drained ? (
        <p
          role="status"
          className={clsx(
            "border-l-4 px-3 py-1.5",
            drained.state === "as-expected" ? "border-clear bg-clear-wash" : "border-caution bg-caution-wash",
          )}
        >
          {show(v.drainedL ?? 0, "volume", 1)} of {show(drained.expectedL, "volume", 1)} expected at this temperature:{" "}
          {drained.state === "as-expected"
            ? "as it should be"
            : drained.state === "short"
              ? "it was low, or not all was caught"
              : "more than the pan holds: overfull, water, or the converter drained too"}
          .
        </p>
      ) : (
        <Notice tone="caution">Measure what comes out: without it the refill is guesswork.</Notice>
      )}
      <div className="grid items-end gap-3 sm:grid-cols-3">
        <NumberField
          label={`Spilt, in filter and rags, ${unitLabel("volume", system)}`}
          value={v.spiltL == null ? null : toDisplay(v.spiltL, "volume", system)}
          onChange={(n) => form.set({ spiltL: n === null ? null : fromDisplay(n, "volume", system) })}
          error={form.errors.spiltL}
        />
        {(
          [
            ["linesOpened", "Cooler lines opened", (job.unit.fluid.coolerL ?? 0) > 0],
            ["converterDrained", "Converter drained", job.unit.converter !== undefined],
          ] as const
        )
          .filter(([, , has]) => has)
          .map(([field, label]) => (
            <label key={field} className="flex min-h-11 items-center gap-2">
              <input
                type="checkbox"
                className="size-5"
                checked={v[field] ?? false}
                onChange={(e) => form.set({ [field]: e.target.checked })}
              />
              {label}
            </label>
          ))}
      </div>
      <RefillAndBolts pan={v} />
      {data && <DebrisFields known={data.debris} value={v} onChange={setDebris} />}
      <div className="flex flex-wrap gap-x-8 gap-y-3">
        <Choice
          label="Filter cut open"
          value={v.filter}
          options={[
            { value: "not-opened", label: "Not opened" },
            { value: "clean", label: "Clean" },
            { value: "lining", label: "Lining" },
            { value: "metal", label: "Metal" },
            { value: "blocked", label: "Blocked" },
          ]}
          onChange={(filter) => form.set({ filter })}
        />
        <Choice label="How sure" value={v.sure} options={SURE} onChange={(sure) => form.set({ sure })} />
      </div>
      <PhotoStrip about={["pan", "magnet", "filter"]} take="magnet" />
    </ReadingForm>
  );
}

const AMOUNTS = [
  { value: "0", label: "None" },
  { value: "1", label: "Trace" },
  { value: "2", label: "Some" },
  { value: "3", label: "Much" },
] as const;
const SIZES_MM = [0.1, 0.5, 1, 3, 10] as const;

/** Each kind with its drawing, how much and how large, and where it can come from in this unit. */
function DebrisFields({
  known,
  value,
  onChange,
}: {
  known: DebrisKnowledge;
  value: Pan;
  onChange: (d: Debris) => void;
}) {
  const { job } = useJob();
  const of = (kind: DebrisKind) => value.debris.find((d) => d.kind === kind);
  return (
    <fieldset>
      <legend className="label">On the magnet, in the pan, in the filter</legend>
      <ul className="mt-1 flex flex-col">
        {known.kinds.map((k) => {
          const seen = of(k.id);
          const sources = debrisSources(job.unit, k);
          const within =
            k.id === "grey-paste" && seen ? pasteWithin(known, seen.amount, value.kmSinceService) : undefined;
          return (
            <li key={k.id} className="grid gap-x-4 gap-y-1 border-t border-rule py-2 md:grid-cols-[80px_1fr_auto]">
              <DebrisDrawing kind={k.id} />
              <div className="min-w-0">
                <p className="label">{k.title}</p>
                <p className="text-sm text-quiet">{k.look}</p>
                <p className="text-sm">
                  {sources.length === 0
                    ? "Nothing in this unit can bring it into the fluid."
                    : `From: ${sources.slice(0, 4).join(", ")}${sources.length > 4 ? ` and ${sources.length - 4} more` : ""}.`}
                </p>
                {seen && seen.amount > 0 && (
                  <p
                    className={clsx(
                      "text-sm",
                      within === false || (within === undefined && seen.amount > 1) ? "text-action" : "text-clear",
                    )}
                  >
                    {within === undefined
                      ? k.says
                      : within
                        ? "Within what the distance allows."
                        : "Over what the distance allows."}
                  </p>
                )}
              </div>
              <div className="flex flex-col gap-1.5">
                <Choice
                  label={`${k.title}: how much`}
                  value={seen && (String(seen.amount) as "0")}
                  options={AMOUNTS}
                  onChange={(a) =>
                    onChange({
                      kind: k.id,
                      amount: Number(a) as Debris["amount"],
                      sizeMm: a === "0" ? null : (seen?.sizeMm ?? null),
                    })
                  }
                />
                {seen && seen.amount > 0 && (
                  <Choice
                    label="Largest piece"
                    value={seen.sizeMm === null ? undefined : String(seen.sizeMm)}
                    options={SIZES_MM.map((s) => ({ value: String(s), label: s < 0.5 ? "dust" : `${s} mm` }))}
                    onChange={(s) => onChange({ ...seen, sizeMm: Number(s) })}
                  />
                )}
              </div>
            </li>
          );
        })}
      </ul>
    </fieldset>
  );
}
