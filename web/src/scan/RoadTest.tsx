import type { EntryBodies, FeltMark } from "@gearsense/core/job";
import { outcomesAt, SITUATIONS } from "@gearsense/core/job";
import { FELT_WORDS, feltObservations, feltText, placeWords } from "@gearsense/core/observe";
import { readObservations, type Unit } from "@gearsense/core/unit";
import clsx from "clsx";
import { useMemo, useState } from "react";
import { useSession } from "../api/queries.ts";
import { SURE } from "../first-look/RungCard.tsx";
import { FormStatus } from "../job/FormStatus.tsx";
import { useJob } from "../job/job-context.tsx";
import { useEntryForm } from "../job/useEntryForm.ts";
import { Cautions } from "../shared/Caution.tsx";
import { Button, Choice, Notice, TextArea, TextField } from "../shared/controls.tsx";
import { ElementCells, ElementHeads, elementStates } from "../suspects/ApplicationChart.tsx";
import { chartSentence } from "../suspects/suspects-text.ts";
import { mark, marksAt, outcomesOf } from "./road-marks.ts";

type Felt = EntryBodies["felt"];
type Conditions = Pick<FeltMark, "load" | "temperature">;

const TONE: readonly string[] = [
  "aria-pressed:bg-clear-wash aria-pressed:border-clear",
  "aria-pressed:bg-stop-wash aria-pressed:border-stop",
];
/** Gears held one after the other come as shifts up, then down. */
const shiftsOf = (unit: Unit): string[] => {
  const forward = unit.gears.map((g) => g.name).filter((g) => g !== "R");
  const up = forward.slice(1).map((g, i) => `${forward[i]}-${g}`);
  return [...up, ...up.map((s) => s.split("-").reverse().join("-")).reverse()];
};
const capital = (s: string) => s.charAt(0).toUpperCase() + s.slice(1);

/** A road test without a log, tapped on the application chart: gears, shifts, ranges, noise and feel. */
export function RoadTest() {
  const { job, state, mayEdit } = useJob();
  const { data: session } = useSession();
  const unit = job.unit as Unit;
  const same = (a: string, b: string) => a.trim().toLowerCase() === b.trim().toLowerCase();
  const form = useEntryForm<Felt>("felt", "felt", (v) => state.felt.find((e) => same(e.body.by, v.by)), {
    by: session?.account.name ?? "",
    sure: "sure",
    marks: [],
    note: "",
  });
  const [now, setNow] = useState<Conditions>({ load: "steady", temperature: "hot" });
  const { value } = form;
  const others = state.felt.filter((e) => !same(e.body.by, value.by));
  const chart = useMemo(() => {
    const seen = feltObservations(unit, [...others.map((e) => e.body), value]);
    return { outcomes: outcomesOf(seen), reading: readObservations(unit, seen) };
  }, [unit, others, value]);
  const sentence = chartSentence(job.unit, chart);
  const tap = (where: string, outcome: FeltMark["outcome"]) =>
    form.set({ marks: mark(value.marks, { where, outcome, ...now }) });
  return (
    <form
      aria-label="Road test"
      noValidate
      className="flex flex-col gap-4"
      onSubmit={(e) => {
        e.preventDefault();
        void form.submit();
      }}
    >
      <Cautions names={["road-test"]} />
      {state.felt.length > 0 && (
        <ul aria-label="Road tests stored" className="border border-rule bg-panel px-3 py-1">
          {state.felt.map((e) => (
            <li key={e.id} className="flex items-center justify-between gap-3 border-b border-rule py-1 last:border-0">
              <span>
                <span className="label">{e.body.by}</span>
                {e.body.sure === "sure" ? "" : `, ${e.body.sure}`}: {feltText(e.body.marks)}
                {e.body.note && <span className="text-quiet"> · {e.body.note}</span>}
              </span>
              {mayEdit && (
                <Button
                  tone="quiet"
                  onClick={() => form.set(e.body)}
                  aria-label={`Correct the road test of ${e.body.by}`}
                >
                  Correct
                </Button>
              )}
            </li>
          ))}
        </ul>
      )}
      {mayEdit && (
        <>
          <FormStatus form={form} />
          <div className="flex flex-wrap items-start gap-x-6 gap-y-3 border border-rule bg-panel p-3">
            <TextField
              label="Whose words"
              value={value.by}
              onChange={(e) => form.set({ by: e.target.value })}
              error={form.errors.by}
              className="w-44"
            />
            <Choice label="How sure" value={value.sure} options={SURE} onChange={(sure) => form.set({ sure })} />
            <Choice
              label="Fluid now"
              value={now.temperature}
              options={[
                { value: "cold", label: "Cold" },
                { value: "hot", label: "Hot" },
                { value: "any", label: "Not known" },
              ]}
              onChange={(temperature) => setNow({ ...now, temperature })}
            />
            <Choice
              label="Load now"
              value={now.load}
              options={[
                { value: "light", label: "Light" },
                { value: "steady", label: "Steady" },
                { value: "hard", label: "Hard" },
                { value: "any", label: "Not known" },
              ]}
              onChange={(load) => setNow({ ...now, load })}
            />
          </div>
          <Notice
            tone="plain"
            title={value.marks.length + others.length === 0 ? "Tap what each gear did" : sentence.title}
          >
            {value.marks.length + others.length === 0
              ? "A tap is kept with the fluid and the load that are set above. Tap again to take it away; what was not driven stays empty."
              : sentence.detail}
          </Notice>
          <Gears unit={unit} marks={value.marks} now={now} reading={chart.reading} onTap={tap} />
          <Block title="Noise and feel" places={[...SITUATIONS]} marks={value.marks} now={now} onTap={tap} />
          <Block title="Ranges" places={["P", "N"]} marks={value.marks} now={now} onTap={tap} />
          <Block title="Shifts" places={shiftsOf(unit)} marks={value.marks} now={now} onTap={tap} columns />
          <TextArea label="Note" value={value.note} onChange={(e) => form.set({ note: e.target.value })} />
          <div className="flex flex-wrap items-center justify-end gap-3">
            {form.errors.marks && (
              <p role="alert" className="font-semibold text-stop">
                {form.errors.marks}
              </p>
            )}
            {value.marks.length > 0 && (
              <Button tone="quiet" onClick={form.reset}>
                Clear
              </Button>
            )}
            <Button
              tone="primary"
              type="submit"
              data-primary
              disabled={form.pending || value.marks.length === 0 || value.by.trim() === ""}
            >
              Store the road test
            </Button>
          </div>
        </>
      )}
    </form>
  );
}

/** Outcomes of one place as keys; what was tapped under other conditions is told behind them. */
function Keys({
  where,
  marks,
  now,
  onTap,
}: {
  where: string;
  marks: readonly FeltMark[];
  now: Conditions;
  onTap: (where: string, outcome: FeltMark["outcome"]) => void;
}) {
  const here = marksAt(marks, where);
  const pressed = (o: string) =>
    here.some((m) => m.outcome === o && m.load === now.load && m.temperature === now.temperature);
  return (
    // biome-ignore lint/a11y/useSemanticElements: keys in a table cell, not a form group
    <span role="group" aria-label={placeWords(where)} className="flex flex-wrap gap-1">
      {(outcomesAt(where) ?? []).map((o, i) => (
        <button
          key={o}
          type="button"
          aria-pressed={pressed(o)}
          onClick={() => onTap(where, o)}
          className={clsx(
            "min-h-11 border border-field bg-panel px-2.5 aria-pressed:font-semibold",
            TONE[Math.min(i, 1)],
          )}
        >
          {capital(FELT_WORDS[o])}
        </button>
      ))}
    </span>
  );
}

/** What was marked under other conditions than those set now. */
function Else({ where, marks, now }: { where: string; marks: readonly FeltMark[]; now: Conditions }) {
  const rest = marksAt(marks, where).filter((m) => m.load !== now.load || m.temperature !== now.temperature);
  return rest.length === 0 ? null : (
    <span className="text-sm text-quiet">
      {rest
        .map((m) =>
          [FELT_WORDS[m.outcome], m.temperature === "any" ? "" : m.temperature, m.load === "any" ? "" : m.load]
            .filter(Boolean)
            .join(" "),
        )
        .join("; ")}
    </span>
  );
}

function Gears({
  unit,
  marks,
  now,
  reading,
  onTap,
}: {
  unit: Unit;
  marks: readonly FeltMark[];
  now: Conditions;
  reading: ReturnType<typeof readObservations>;
  onTap: (where: string, outcome: FeltMark["outcome"]) => void;
}) {
  const { job } = useJob();
  const { tint, word } = elementStates(reading);
  return (
    <div className="overflow-x-auto border border-rule bg-panel p-3">
      <table className="w-full border-separate border-spacing-x-1 border-spacing-y-0.5 text-center">
        <caption className="sr-only">Gears of the road test beside the elements that carry them</caption>
        <thead>
          <tr>
            <th className="text-left font-medium text-quiet">gear</th>
            <th className="text-left font-medium text-quiet">what it did</th>
            <ElementHeads unit={job.unit} tint={tint} word={word} className="hidden min-w-11 sm:table-cell" />
          </tr>
        </thead>
        <tbody>
          {unit.gears.map((g) => (
            <tr key={g.name}>
              <th className="border-t border-rule pr-2 text-left text-lg">{g.name}</th>
              <td className="border-t border-rule text-left">
                <Keys where={g.name} marks={marks} now={now} onTap={onTap} />
                <Else where={g.name} marks={marks} now={now} />
              </td>
              <ElementCells unit={job.unit} gear={g.name} tint={tint} className="hidden sm:table-cell" />
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function Block({
  title,
  places,
  marks,
  now,
  onTap,
  columns = false,
}: {
  title: string;
  places: readonly string[];
  marks: readonly FeltMark[];
  now: Conditions;
  onTap: (where: string, outcome: FeltMark["outcome"]) => void;
  columns?: boolean;
}) {
  return (
    <section aria-label={title} className="border border-rule bg-panel p-3">
      <h2 className="text-lg">{title}</h2>
      <ul className={clsx("grid gap-x-6", columns && "2xl:grid-cols-2")}>
        {places.map((where) => (
          <li key={where} className="grid items-center gap-x-3 border-b border-rule py-1 sm:grid-cols-[220px_auto_1fr]">
            <span>{placeWords(where)}</span>
            <Keys where={where} marks={marks} now={now} onTap={onTap} />
            <Else where={where} marks={marks} now={now} />
          </li>
        ))}
      </ul>
    </section>
  );
}
