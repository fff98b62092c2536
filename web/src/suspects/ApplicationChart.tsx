import type { JobView, SuspectsView } from "@gearsense/contract";
import type { ChartReading } from "@gearsense/core/unit";
import clsx from "clsx";
import { Check, CircleDashed, X } from "lucide-react";

type Unit = JobView["unit"];
type ElementKind = Unit["elements"][number]["kind"];

/** One shape per kind of element, so that colour is not alone. */
export function Shape({ kind }: { kind: ElementKind }) {
  const common = "fill-current";
  return (
    <svg viewBox="0 0 20 20" aria-hidden="true" className="mx-auto size-[17px]">
      {(kind === "clutch" || kind === "dual-clutch") && <rect x="3" y="3" width="14" height="14" className={common} />}
      {kind === "brake" && <path d="M2 6h16v8H2z" className={common} />}
      {kind === "band" && <path d="M3 10a7 7 0 0 1 14 0" fill="none" stroke="currentColor" strokeWidth="3" />}
      {kind === "one-way-clutch" && <path d="M4 3l13 7-13 7z" className={common} />}
      {kind === "fork" && <path d="M10 2l7 8-7 8-7-8z" fill="none" stroke="currentColor" strokeWidth="2.4" />}
    </svg>
  );
}

const WORDS: Record<ElementKind, string> = {
  clutch: "clutch",
  "dual-clutch": "clutch",
  brake: "brake",
  band: "band",
  "one-way-clutch": "one-way clutch",
  fork: "fork",
};

const NOTHING_DRIVEN: SuspectsView["chart"] = {
  outcomes: {},
  reading: { cleared: [], accused: [], explanations: [] },
  stuck: [],
};

/** What the gears say of an element: its tint and its word. */
export function elementStates(reading: ChartReading): { tint: (id: string) => string; word: (id: string) => string } {
  const suspected = new Set(reading.explanations.flat());
  const of = (id: string, suspect: string, cleared: string, accused: string, open: string) =>
    suspected.has(id)
      ? suspect
      : reading.cleared.includes(id)
        ? cleared
        : reading.accused.includes(id)
          ? accused
          : open;
  return {
    tint: (id) => of(id, "bg-action-wash", "bg-clear-wash", "bg-caution-wash", ""),
    word: (id) => of(id, "suspect", "cleared", "accused", "open"),
  };
}

/** Heads of the elements of a chart. @param word - what the gears say of each; absent: the chart alone */
export function ElementHeads({
  unit,
  tint,
  word,
  className = "",
}: {
  unit: Pick<Unit, "elements">;
  tint: (id: string) => string;
  word: ((id: string) => string) | undefined;
  className?: string;
}) {
  return unit.elements.map((e) => (
    <th key={e.id} title={e.name} className={clsx("pt-1", className, tint(e.id))}>
      <span className="block text-[17px]">{e.id}</span>
      {word && <span className="block text-[13px] font-medium text-quiet">{word(e.id)}</span>}
    </th>
  ));
}

/** What is applied in a gear, element by element. */
export function ElementCells({
  unit,
  gear,
  tint,
  className = "",
}: {
  unit: Pick<Unit, "elements" | "application">;
  gear: string;
  tint: (id: string) => string;
  className?: string;
}) {
  return unit.elements.map((e) => (
    <td key={e.id} className={clsx("border-t border-rule", className, tint(e.id))}>
      {(unit.application[gear] ?? []).some((a) => a.element === e.id) && (
        <>
          <Shape kind={e.kind} />
          <span className="sr-only">applied</span>
        </>
      )}
    </td>
  ));
}

/**
 * Gears down, elements across: good and bad gears visibly clear or accuse columns.
 * @param chart - undefined: the chart alone, without a job
 * @param picked - gear whose row stands out
 */
export function ApplicationChart({
  unit,
  chart,
  picked,
}: {
  unit: Unit;
  chart?: SuspectsView["chart"] | undefined;
  picked?: string;
}) {
  const { outcomes, reading } = chart ?? NOTHING_DRIVEN;
  const { tint, word } = elementStates(reading);
  const kinds = [...new Set(unit.elements.map((e) => e.kind))];
  return (
    <div className="border border-rule bg-panel p-3">
      <table className="w-full table-fixed border-separate border-spacing-x-1 border-spacing-y-0 text-center">
        <caption className="sr-only">Application chart with the outcome of each gear</caption>
        <thead>
          <tr>
            <th className="w-[84px] text-left font-medium text-quiet">gear</th>
            <ElementHeads unit={unit} tint={tint} word={chart && word} />
          </tr>
        </thead>
        <tbody>
          {unit.gears.map((g) => {
            const outcome = outcomes[g.name] ?? "not-exercised";
            return (
              <tr key={g.name} className={clsx(picked === g.name && "bg-action-wash")}>
                <th className="border-t border-rule py-[5px] text-left">
                  <span
                    className={clsx(
                      "flex items-center gap-2 text-lg",
                      outcome === "good" && "text-clear",
                      outcome === "bad" && "text-stop",
                      outcome === "not-exercised" && "text-quiet",
                    )}
                  >
                    <span className="w-3">{g.name}</span>
                    {!chart && (
                      <span className="figures text-base text-ink">{g.ratio.toFixed(2).replace("-", "−")}</span>
                    )}
                    {outcome === "good" && <Check aria-label="holds" className="size-5" strokeWidth={3} />}
                    {outcome === "bad" && <X aria-label="fails" className="size-5" strokeWidth={3} />}
                    {chart && outcome === "not-exercised" && (
                      <CircleDashed aria-label="not driven hard enough" className="size-5" />
                    )}
                  </span>
                </th>
                <ElementCells unit={unit} gear={g.name} tint={tint} />
              </tr>
            );
          })}
        </tbody>
      </table>
      <p className="mt-2 flex flex-wrap gap-x-4 text-sm text-quiet">
        {kinds.map((k) => (
          <span key={k} className="inline-flex items-center gap-1">
            <Shape kind={k} /> {WORDS[k]}
          </span>
        ))}
        {chart && <span>Dashed ring: not driven hard enough to clear anything.</span>}
      </p>
    </div>
  );
}
