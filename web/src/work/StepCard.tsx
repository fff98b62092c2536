import { fillState } from "@gearsense/core/fluid";
import type { EntryBodies, JobState } from "@gearsense/core/job";
import {
  cautionsOf,
  emptyStart,
  FIRST_START,
  holdClosed,
  insideLimit,
  leftInTray,
  liftOf,
  limitOf,
  numberIn,
  type Plan,
  type PlanStep,
  type Recorded,
  trayOf,
  valueProblem,
} from "@gearsense/core/procedure";
import { fromDisplay, type Quantity, toDisplay, type UnitSystem, unitLabel } from "@gearsense/core/quantity";
import type { Unit } from "@gearsense/core/unit";
import { Check, Clock, Hand } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import { useJob } from "../job/job-context.tsx";
import { useEntryForm } from "../job/useEntryForm.ts";
import { useShortcuts } from "../keys/shortcuts.tsx";
import { PhotoStrip } from "../photos/PhotoStrip.tsx";
import { useSettings } from "../settings/settings.tsx";
import { Cautions } from "../shared/Caution.tsx";
import { Button, Choice, TextArea, TextField } from "../shared/controls.tsx";
import { TorqueMap } from "../shared/TorqueMap.tsx";
import { FillPanel } from "./FillPanel.tsx";
import { HardwareCheck } from "./HardwareCheck.tsx";
import { PLACES } from "./places.ts";
import { TrayMap } from "./TrayMap.tsx";

const LIFTS = { up: "lift up", down: "on the ground", any: "" } as const;
const TROUBLE = ["seized", "broke", "missing"] as const;
const quantityOf = (r: Recorded): Quantity => (r.quantity === "choice" ? "none" : r.quantity);
/** What is recorded with the unit it is in. */
const named = (r: Recorded, system: "metric" | "imperial") =>
  [r.name, unitLabel(quantityOf(r), system)].filter(Boolean).join(", ");

interface Typed {
  values: Record<string, string>;
  trouble: string[];
  note: string;
  overridden: string;
  minutes: string;
  /** how far each set of bolts is, by its id */
  torque?: Record<string, readonly [number, number]>;
}
/** Where new bolts lie beside the old ones. */
const HARDWARE_STEP = "parts";
const EMPTY: Typed = { values: {}, trouble: [], note: "", overridden: "", minutes: "" };

/** What was typed, or how long the step was looked at; a tick at once says nothing of the time. */
const realMinutes = (typed: string, elapsedMin: number): number | null => {
  if (typed.trim() !== "") return numberIn(typed);
  return elapsedMin < LEAST_MINUTES ? null : Math.round(elapsedMin);
};
const LEAST_MINUTES = 0.5;

/** One step, large: cautions before it, its hold, what is recorded, what went wrong, real minutes. */
export function StepCard({
  plan,
  step,
  onTick,
  onDone,
}: {
  plan: Plan;
  step: PlanStep;
  onTick: (body: EntryBodies["step"], baseSeq: number) => Promise<void>;
  onDone: () => void;
}) {
  const { job, state, mayEdit } = useJob();
  const { show, system } = useSettings();
  const unit = job.unit as Unit;
  const current = state.steps.find((s) => s.body.step === step.key);
  const form = useEntryForm<Typed>("step", `step.${step.key}`, current, begunWith(step, state, system));
  const { value, set } = form;
  const [ticked, setTicked] = useState(false);
  const ticking = useRef(false);
  const began = useRef(Date.now());
  const [elapsedMin, setElapsedMin] = useState(0);
  useEffect(() => {
    const timer = setInterval(() => setElapsedMin((Date.now() - began.current) / 60_000), 10_000);
    return () => clearInterval(timer);
  }, []);
  const { hold, record = [] } = step;
  /** as it is kept and judged: in the units of the unit file, whatever it is typed in */
  const metric = (r: Recorded): string => {
    const text = value.values[r.id] ?? "";
    const n = numberIn(text);
    if (r.quantity === "choice" || system === "metric" || !Number.isFinite(n)) return text;
    return String(Number(fromDisplay(n, quantityOf(r), system).toFixed(3)));
  };
  const tray = trayOf(unit, plan, step);
  const full = tray && state.trays.find((t) => t.body.step === tray.step)?.body.full;
  const leftOver = leftInTray(unit, plan, step, full);
  const wrong = record.map((r) => valueProblem(step, r.id, metric(r))).find(Boolean);
  const inAir =
    step.key === FIRST_START
      ? emptyStart(
          unit,
          state.emptied &&
            fillState(
              unit,
              state.emptied.body,
              state.filling.map((f) => f.body),
            ),
          state.steps.map((s) => s.body),
        )
      : undefined;
  const closed = inAir
    ? inAir.charAt(0).toUpperCase() + inAir.slice(1)
    : leftOver.length > 0
      ? `Still in the tray: ${leftOver.slice(0, 3).join(", ")}${leftOver.length > 3 ? ` and ${leftOver.length - 3} more` : ""}`
      : holdClosed(unit, step, Object.fromEntries(record.map((r) => [r.id, metric(r)])));
  const overriding = closed !== undefined && value.overridden.trim() !== "";
  const minutesWrong = value.minutes.trim() !== "" && !(numberIn(value.minutes) >= 0);
  const stopped =
    wrong ??
    (minutesWrong ? "Real minutes: a number, such as 12" : undefined) ??
    (hold && !ticked ? "Tick the hold first" : closed !== undefined && !overriding ? closed : undefined);
  const tick = async () => {
    if (!mayEdit || stopped || ticking.current) return;
    ticking.current = true;
    const body = {
      step: step.key,
      title: step.title,
      minutes: realMinutes(value.minutes, elapsedMin),
      values: record
        .filter((r) => metric(r) !== "")
        .map((r) => ({ id: r.id, name: named(r, "metric"), value: metric(r) })),
      trouble: value.trouble,
      note: value.note,
      overridden: overriding ? value.overridden.trim() : "",
    };
    await onTick(body, current?.seq ?? 0);
    form.reset();
    onDone();
  };
  useShortcuts([{ key: "d", label: "Tick the step that is shown", group: "Work", run: () => void tick() }]);
  const limitText = (r: Recorded) => {
    const limit = r.limit === undefined ? undefined : limitOf(unit, r.limit);
    if (!limit) return undefined;
    const as = (v: number) => show(v, quantityOf(r));
    if (limit.least !== undefined && limit.most !== undefined)
      return `${as(limit.least)} to ${as(limit.most)}: ${limit.source}`;
    return limit.most !== undefined
      ? `at most ${as(limit.most)}: ${limit.source}`
      : `at least ${as(limit.least as number)}: ${limit.source}`;
  };
  return (
    <article aria-label={step.title} className="flex flex-col gap-3 border-2 border-ink bg-panel p-4">
      <Cautions names={cautionsOf(step)} />
      <div>
        <h3 className="text-2xl leading-7">{step.title}</h3>
        <p className="mt-1 text-quiet">
          {[
            PLACES[step.place],
            LIFTS[liftOf(step)],
            step.people === 2 ? "two persons" : "",
            `${step.minutes[1]} min (${step.minutes[0]} to ${step.minutes[2]})`,
          ]
            .filter(Boolean)
            .join(" · ")}
        </p>
      </div>
      {step.how && <p className="text-lg">{step.how}</p>}
      {step.place === "bench" && (
        <Link to={`/jobs/${job.id}/bench`} className="label w-fit underline decoration-field underline-offset-4">
          Measure and choose on the bench
        </Link>
      )}
      <Needed step={step} />
      {step.id === HARDWARE_STEP && <HardwareCheck />}
      <TrayMap plan={plan} step={step} />
      {tightens(step) &&
        boltsOf(unit, step).map((b) => (
          <TorqueMap
            key={b.id}
            bolt={b}
            at={value.torque?.[b.id] ?? [0, 0]}
            onAt={(at) => set({ torque: { ...value.torque, [b.id]: at } })}
          />
        ))}
      {step.procedure === "fill" && step.id !== "right-fluid" && <FillPanel stepId={step.id} />}
      {hold && (
        <fieldset className="border-l-4 border-caution bg-caution-wash p-3">
          <legend className="sr-only">Hold</legend>
          <label className="flex min-h-11 items-start gap-3">
            <input
              type="checkbox"
              className="mt-1 size-7 shrink-0"
              checked={ticked}
              onChange={(e) => setTicked(e.target.checked)}
            />
            <span>
              <span className="label flex items-center gap-2 text-lg">
                <Hand aria-hidden="true" className="size-5" />
                {hold.ask}
              </span>
              <span className="block">{hold.reason}</span>
            </span>
          </label>
        </fieldset>
      )}
      {record.map((r) => {
        const text = value.values[r.id] ?? "";
        const inside = insideLimit(unit, step, r.id, metric(r));
        const put = (v: string) => set({ values: { ...value.values, [r.id]: v } });
        if (r.quantity === "choice")
          return (
            <Choice
              key={r.id}
              label={r.name}
              value={text}
              onChange={put}
              options={(r.options ?? []).map((o) => ({ value: o, label: o }))}
            />
          );
        const hint = limitText(r);
        const problem = valueProblem(step, r.id, text);
        return (
          <TextField
            key={r.id}
            label={named(r, system)}
            inputMode="decimal"
            value={text}
            {...(hint ? { hint } : {})}
            error={problem ?? (inside === false ? "Outside its limits" : undefined)}
            onChange={(e) => put(e.target.value)}
          />
        );
      })}
      {closed !== undefined && (Object.keys(value.values).length > 0 || leftOver.length > 0 || inAir !== undefined) && (
        <TextField
          label="Go ahead anyway, because"
          hint="It stands in the report."
          value={value.overridden}
          onChange={(e) => set({ overridden: e.target.value })}
        />
      )}
      {(step.photos ?? []).length > 0 && <PhotoStrip about={[photoAbout(step)]} take={photoAbout(step)} />}
      <fieldset className="flex flex-wrap gap-x-5">
        <legend className="label">What went wrong</legend>
        {[...TROUBLE, ...(step.mishaps ?? [])].map((t) => (
          <label key={t} className="flex min-h-11 items-center gap-2">
            <input
              type="checkbox"
              className="size-6"
              checked={value.trouble.includes(t)}
              onChange={(e) =>
                set({ trouble: e.target.checked ? [...value.trouble, t] : value.trouble.filter((x) => x !== t) })
              }
            />
            {t}
          </label>
        ))}
      </fieldset>
      <div className="grid gap-3 sm:grid-cols-[1fr_150px]">
        <TextArea label="Note" rows={1} value={value.note} onChange={(e) => set({ note: e.target.value })} />
        <TextField
          label="Real minutes"
          inputMode="decimal"
          placeholder={elapsedMin.toFixed(0)}
          value={value.minutes}
          onChange={(e) => set({ minutes: e.target.value })}
          error={minutesWrong ? "Minutes, such as 12" : undefined}
        />
      </div>
      {step.wait && (
        <p className="flex items-center gap-2">
          <Clock aria-hidden="true" className="size-5" />
          Then {step.wait.minutes[1]} min by itself ({step.wait.minutes[0]} to {step.wait.minutes[2]}): {step.wait.why}.
        </p>
      )}
      {mayEdit && (
        <div className="sticky -bottom-5 -mx-4 -mb-4 flex items-center gap-3 border-t border-rule bg-panel px-4 py-3">
          <Button
            tone="primary"
            data-primary
            className="min-h-14 px-8 text-xl"
            disabled={stopped !== undefined}
            onClick={() => void tick()}
          >
            <Check aria-hidden="true" className="size-6" />
            Done
          </Button>
          {stopped && <p className="text-quiet">{stopped}.</p>}
        </div>
      )}
    </article>
  );
}

/** The level that was read at the first look is not asked for twice. */
function begunWith(step: PlanStep, state: JobState, system: UnitSystem): Typed {
  const { level } = state;
  if (!level || !step.record?.some((r) => r.id === "level")) return EMPTY;
  const words = { low: "low", ok: "correct", high: "overfilled", "not-readable": "cannot be read" } as const;
  return {
    ...EMPTY,
    values: {
      level: words[level.body.state],
      ...(level.body.fluidC === null
        ? {}
        : { temperature: String(Number(toDisplay(level.body.fluidC, "temperature", system).toFixed(1))) }),
    },
    note: `Read at the first look by ${level.author}.`,
  };
}

/** What a picture of a step is filed under. */
const photoAbout = (step: PlanStep) =>
  step.photos?.some((p) => /fluid/.test(p))
    ? "fluid"
    : step.photos?.some((p) => /magnet|pan/.test(p))
      ? "pan"
      : "other";

const boltsOf = (unit: Unit, step: PlanStep) => (unit.fasteners ?? []).filter((f) => step.fasteners?.includes(f.id));
/** What goes back is tightened; what comes off is not. */
const tightens = (step: PlanStep) => step.undoes !== undefined && (step.fasteners ?? []).length > 0;

function Needed({ step }: { step: PlanStep }) {
  const { job } = useJob();
  const bolts = boltsOf(job.unit as Unit, step);
  const rows: [string, string][] = [
    ["Tools", (step.tools ?? []).join(", ")],
    [
      "Parts",
      (step.parts ?? [])
        .map((p) => `${p.count ? `${p.count} × ` : ""}${p.name}${p.oneTime ? ", always new" : ""}`)
        .join("; "),
    ],
    ["Material", (step.consumables ?? []).join(", ")],
    [
      "Bolts",
      bolts
        .map(
          (f) =>
            `${f.count} × ${f.thread} × ${f.lengthMm} mm, ${f.torqueNm} N·m${f.angleDeg ? ` + ${f.angleDeg}°` : ""}${f.oneTime ? ", always new" : ""}`,
        )
        .join("; "),
    ],
    ["Picture of", (step.photos ?? []).join(", ")],
  ];
  const told = rows.filter(([, text]) => text !== "");
  if (told.length === 0) return null;
  return (
    <dl className="grid grid-cols-[90px_1fr] gap-x-3">
      {told.map(([name, text]) => (
        <div key={name} className="contents">
          <dt className="label">{name}</dt>
          <dd>{text}</dd>
        </div>
      ))}
    </dl>
  );
}
