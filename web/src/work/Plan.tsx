import type { PlanOfJob } from "@gearsense/contract";
import type { EntryBodies, EntryOf } from "@gearsense/core/job";
import {
  type Plan as CorePlan,
  cautionsOf,
  holdClosed,
  insideLimit,
  liftOf,
  limitOf,
  numberIn,
  openSteps,
  type PlanStep,
  valueProblem,
} from "@gearsense/core/procedure";
import type { Quantity } from "@gearsense/core/quantity";
import type { Unit } from "@gearsense/core/unit";
import clsx from "clsx";
import { Check, Clock, Hand } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { toast } from "sonner";
import { usePlan, useSession } from "../api/queries.ts";
import { useJob } from "../job/job-context.tsx";
import { useEntryForm } from "../job/useEntryForm.ts";
import { useShortcuts } from "../keys/shortcuts.tsx";
import { useSettings } from "../settings/settings.tsx";
import { Cautions } from "../shared/Caution.tsx";
import { Button, Choice, Notice, TextArea, TextField } from "../shared/controls.tsx";
import { TorqueMap } from "../shared/TorqueMap.tsx";
import { HardwareCheck } from "./HardwareCheck.tsx";
import { useTicks } from "./useTicks.ts";

const PLACES = { top: "from above", under: "from beneath", cabin: "in the cabin", bench: "at the bench" } as const;
const LIFTS = { up: "lift up", down: "on the ground", any: "" } as const;
const TROUBLE = ["seized", "broke", "missing"] as const;
const QUANTITIES: Readonly<Record<string, Quantity>> = {
  temperature: "temperature",
  volume: "volume",
  length: "length",
  torque: "torque",
  resistance: "resistance",
  pressure: "pressure",
};
const UNITS: Readonly<Record<string, string>> = {
  temperature: "°C",
  volume: "l",
  length: "mm",
  torque: "N·m",
  resistance: "Ω",
  pressure: "kPa",
};

const hours = (minutes: number) => {
  const whole = Math.round(minutes);
  return whole < 60 ? `${whole} min` : `${Math.floor(whole / 60)} h ${String(whole % 60).padStart(2, "0")}`;
};

/** The decision as steps: what may be done now, one of them large, and what is done. */
export function Plan() {
  const { job } = useJob();
  const { data, error } = usePlan(job.id);
  if (error)
    return (
      <Notice tone="stop" title="The plan cannot be made" live>
        {error.message}
      </Notice>
    );
  if (!data) return <p role="status">Making the plan …</p>;
  if (data.steps.length === 0)
    return <p className="text-quiet">No procedure does this repair yet: record what was done below.</p>;
  return <Steps data={data} />;
}

function Steps({ data }: { data: PlanOfJob }) {
  const { job, state, mayEdit } = useJob();
  const { data: session } = useSession();
  const [chosen, setChosen] = useState<string | undefined>();
  const shown = useRef<string | undefined>(undefined);
  const plan = { steps: data.steps, procedures: [], repairs: [], unitId: job.unitId } as unknown as CorePlan;
  const done = new Map(state.steps.map((s) => [s.body.step, s]));
  const ticks = useTicks(job.id);
  const onWay = ticks.waiting.filter((t) => !t.refused);
  const refused = ticks.waiting.filter((t) => t.refused);
  const doneKeys = new Set([...done.keys(), ...onWay.map((t) => t.body.step)]);
  const rank = new Map(data.order.map((o, i) => [o.key, i]));
  const open = openSteps(plan, doneKeys).sort((a, b) => (rank.get(a.key) ?? 0) - (rank.get(b.key) ?? 0));
  const now = open.find((s) => s.key === chosen) ?? open[0];
  const me = session?.account.name;
  // the step that stood here was ticked by somebody else: said, for the card goes on to the next
  useEffect(() => {
    const other = state.steps.find((s) => s.body.step === shown.current && s.author !== me);
    if (other) toast(`${other.author} has ticked “${other.body.title}” meanwhile.`);
    shown.current = now?.key;
  }, [state.steps, me, now?.key]);
  const own = data.steps.filter((s) => doneKeys.has(s.key)).length;
  const left = data.steps.filter((s) => !doneKeys.has(s.key));
  return (
    <section aria-label="Plan" className="flex flex-col gap-3">
      <div className="flex flex-wrap items-end justify-between gap-3">
        <div>
          <h2 className="text-xl">Plan</h2>
          <p className="text-quiet">
            {own} of {data.steps.length} steps done;{" "}
            {left.length > 0
              ? `about ${hours(left.reduce((s, x) => s + x.minutes[1], 0))} of work left (${hours(left.reduce((s, x) => s + x.minutes[0], 0))} to ${hours(left.reduce((s, x) => s + x.minutes[2], 0))})`
              : "all of it"}
            .
          </p>
        </div>
        <Taken steps={state.steps} planned={data} />
      </div>
      {data.without.length > 0 && (
        <Notice tone="caution">
          No procedure does this yet, it is not part of the plan: {data.without.join(", ")}.
        </Notice>
      )}
      {onWay.length > 0 && (
        <p role="status" className="border-l-4 border-caution bg-caution-wash p-2">
          {onWay.length === 1 ? "1 tick is" : `${onWay.length} ticks are`} kept on this device and sent when there is a
          network.
        </p>
      )}
      {refused.map((t) => (
        <Notice
          key={t.id}
          tone="stop"
          title={`“${t.body.title}” was not taken`}
          live
          actions={
            <>
              <Button onClick={() => void ticks.again(t)}>Send again</Button>
              <Button onClick={() => void ticks.drop(t.id)}>Drop</Button>
            </>
          }
        >
          {t.refused}
        </Notice>
      ))}
      <Ways data={data} disabled={!mayEdit} />
      <div className={clsx("grid gap-4", (open.length > 1 || state.steps.length > 0) && "xl:grid-cols-[1fr_280px]")}>
        {now ? (
          <StepCard key={now.key} step={now} onTick={ticks.tick} onDone={() => setChosen(undefined)} />
        ) : (
          <p className="border border-clear bg-clear-wash p-4 text-lg">Every step of the plan is done.</p>
        )}
        <div className="flex flex-col gap-4">
          {open.length > 1 && (
            <nav aria-label="Possible now">
              <h3 className="text-lg">Possible now</h3>
              <ul>
                {open.map((s) => (
                  <li key={s.key}>
                    <button
                      type="button"
                      aria-current={s.key === now?.key ? "step" : undefined}
                      onClick={() => setChosen(s.key)}
                      className={clsx(
                        "flex min-h-11 w-full items-center justify-between gap-2 border-b border-rule px-2 text-left",
                        s.key === now?.key && "bg-action-wash",
                      )}
                    >
                      <span>{s.title}</span>
                      <span className="text-sm whitespace-nowrap text-quiet">{PLACES[s.place]}</span>
                    </button>
                  </li>
                ))}
              </ul>
            </nav>
          )}
          {state.steps.length > 0 && <Done steps={state.steps} />}
        </div>
      </div>
    </section>
  );
}

function Taken({ steps, planned }: { steps: readonly EntryOf<"step">[]; planned: PlanOfJob }) {
  const timed = steps.filter((s) => s.body.minutes !== null);
  if (timed.length === 0) return null;
  const real = timed.reduce((sum, s) => sum + (s.body.minutes ?? 0), 0);
  const likely = timed.reduce((sum, s) => sum + (planned.steps.find((p) => p.key === s.body.step)?.minutes[1] ?? 0), 0);
  return (
    <p className="figures">
      {hours(real)} taken, {hours(likely)} planned for these
    </p>
  );
}

/** Where there are several ways to the same end, one is chosen before it is begun. */
function Ways({ data, disabled }: { data: PlanOfJob; disabled: boolean }) {
  const { state } = useJob();
  const form = useEntryForm("plan", "plan", state.plan, { ways: state.plan?.body.ways ?? [] });
  if (data.ways.length === 0) return null;
  const choose = (end: string, id: string) => {
    const others = data.ways.filter((w) => w.end !== end).map((w) => w.chosen);
    void form.submit({ ways: [...others, id] });
  };
  return (
    <div className="flex flex-col gap-2">
      {data.ways.map((w) => (
        <label key={w.end} className="flex flex-wrap items-center gap-2">
          <span className="label">Way</span>
          <select
            className="min-h-11 border border-field bg-panel px-2"
            value={w.chosen}
            disabled={disabled || form.pending}
            onChange={(e) => choose(w.end, e.target.value)}
          >
            {w.of.map((o) => (
              <option key={o.id} value={o.id}>
                {o.title}
              </option>
            ))}
          </select>
        </label>
      ))}
      {form.failure && (
        <p role="alert" className="font-semibold text-stop">
          {form.failure}
        </p>
      )}
    </div>
  );
}

interface Typed {
  values: Record<string, string>;
  trouble: string[];
  note: string;
  passed: string;
  minutes: string;
  /** how far each set of bolts is, by its id */
  torque?: Record<string, readonly [number, number]>;
}
/** Where new bolts lie beside the old ones. */
const HARDWARE_STEP = "parts";
const EMPTY: Typed = { values: {}, trouble: [], note: "", passed: "", minutes: "" };

/** What was typed, or how long the step was looked at; a tick at once says nothing of the time. */
const realMinutes = (typed: string, elapsedMin: number): number | null => {
  if (typed.trim() !== "") return numberIn(typed);
  return elapsedMin < LEAST_MINUTES ? null : Math.round(elapsedMin);
};
const LEAST_MINUTES = 0.5;

/** One step, large: cautions before it, its hold, what is recorded, what went wrong, real minutes. */
function StepCard({
  step,
  onTick,
  onDone,
}: {
  step: PlanStep;
  onTick: (body: EntryBodies["step"], baseSeq: number) => Promise<void>;
  onDone: () => void;
}) {
  const { job, state, mayEdit } = useJob();
  const { show } = useSettings();
  const unit = job.unit as Unit;
  const current = state.steps.find((s) => s.body.step === step.key);
  const form = useEntryForm<Typed>("step", `step.${step.key}`, current, EMPTY);
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
  const wrong = record.map((r) => valueProblem(step, r.id, value.values[r.id] ?? "")).find(Boolean);
  const closed = holdClosed(unit, step, value.values);
  const passing = closed !== undefined && value.passed.trim() !== "";
  const minutesWrong = value.minutes.trim() !== "" && !(numberIn(value.minutes) >= 0);
  const stopped =
    wrong ??
    (minutesWrong ? "The minutes are no number" : undefined) ??
    (hold && !ticked ? "Tick the hold first" : closed !== undefined && !passing ? closed : undefined);
  const tick = async () => {
    if (!mayEdit || stopped || ticking.current) return;
    ticking.current = true;
    const body = {
      step: step.key,
      title: step.title,
      minutes: realMinutes(value.minutes, elapsedMin),
      values: record
        .filter((r) => (value.values[r.id] ?? "") !== "")
        .map((r) => ({ id: r.id, name: r.name, value: value.values[r.id] as string })),
      trouble: value.trouble,
      note: value.note,
      passed: passing ? value.passed.trim() : "",
    };
    await onTick(body, current?.seq ?? 0);
    form.reset();
    onDone();
  };
  useShortcuts([{ key: "d", label: "Tick the step that is shown", group: "Work", run: () => void tick() }]);
  const limitText = (name: string | undefined, quantity: string) => {
    const limit = name === undefined ? undefined : limitOf(unit, name);
    if (!limit) return undefined;
    const as = (v: number) => show(v, QUANTITIES[quantity] ?? "none");
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
      <Needed step={step} />
      {step.id === HARDWARE_STEP && <HardwareCheck />}
      {tightens(step) &&
        boltsOf(unit, step).map((b) => (
          <TorqueMap
            key={b.id}
            bolt={b}
            at={value.torque?.[b.id] ?? [0, 0]}
            onAt={(at) => set({ torque: { ...value.torque, [b.id]: at } })}
          />
        ))}
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
        const inside = insideLimit(unit, step, r.id, text);
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
        const hint = limitText(r.limit, r.quantity);
        const problem = valueProblem(step, r.id, text);
        return (
          <TextField
            key={r.id}
            label={UNITS[r.quantity] ? `${r.name}, ${UNITS[r.quantity]}` : r.name}
            inputMode="decimal"
            value={text}
            {...(hint ? { hint } : {})}
            error={problem ?? (inside === false ? "Outside its limits" : undefined)}
            onChange={(e) => put(e.target.value)}
          />
        );
      })}
      {closed !== undefined && Object.keys(value.values).length > 0 && (
        <TextField
          label="Passed over although it does not open, because"
          hint="It stands in the report."
          value={value.passed}
          onChange={(e) => set({ passed: e.target.value })}
        />
      )}
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
        <div className="sticky bottom-0 -mx-4 -mb-4 flex items-center gap-3 border-t border-rule bg-panel px-4 py-3">
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

function Done({ steps }: { steps: readonly EntryOf<"step">[] }) {
  const newest = [...steps].sort((a, b) => b.seq - a.seq);
  return (
    <details>
      <summary className="label flex min-h-11 cursor-pointer items-center text-lg">Done ({steps.length})</summary>
      <ul>
        {newest.map((s) => (
          <li key={s.id} className="border-b border-rule py-1.5">
            <span>{s.body.title}</span>
            <span className="block text-sm text-quiet">
              {[
                s.author,
                s.body.minutes === null ? "" : `${s.body.minutes} min`,
                ...s.body.values.map((v) => `${v.name} ${v.value}`),
                ...s.body.trouble,
                s.body.passed ? `hold passed over: ${s.body.passed}` : "",
              ]
                .filter(Boolean)
                .join(" · ")}
            </span>
          </li>
        ))}
      </ul>
      <p className="text-sm text-quiet">A tick is taken back on the timeline; U takes back your last one.</p>
    </details>
  );
}
