import type { OwnJobsView } from "@gearsense/contract";
import { percent } from "@gearsense/core/quantity";
import { SHAPE } from "@gearsense/core/suspect";
import { PlainTable } from "../shared/PlainTable.tsx";

type Factors = OwnJobsView["factors"];

/** Moved by less than this nobody would notice. */
const TOLD = 0.1;
const times = (factor: number) => (factor >= 1 ? `× ${factor.toFixed(1)}` : `÷ ${(1 / factor).toFixed(1)}`);

/** Which faults come more or less often here than the library says. */
export function OwnFactors({ factors }: { factors: Factors }) {
  const told = factors.filter((f) => Math.abs(Math.log(f.factor)) >= Math.log(1 + TOLD));
  if (told.length === 0) return <p>No fault comes so much more or less often here that it would move the odds.</p>;
  return (
    <PlainTable
      columns={["Fault", "Found here", "By the library", "Odds before any sign"]}
      rows={told.map((f) => [f.title, f.found.toFixed(1), f.expected.toFixed(1), times(f.factor)])}
    />
  );
}

/** What the shop's own proved jobs teach, and whether the odds follow it. */
export function OwnOdds({ own }: { own: OwnJobsView }) {
  return (
    <section
      aria-label="What own jobs teach"
      className="flex flex-col gap-2 overflow-x-auto border border-rule bg-panel p-4"
    >
      <h2 className="text-xl">What own jobs teach</h2>
      <p>
        {own.jobs === 0
          ? "No proved repair says yet what was wrong. Each that is proved, handed over and stays away counts."
          : `${own.jobs} proved ${own.jobs === 1 ? "repair" : "repairs"}, against how often the library lets each fault come in such units.`}{" "}
        {own.moves
          ? "The odds of new jobs move with it."
          : "The odds don’t move with it: that is switched on for the whole shop, on its page."}
      </p>
      {own.jobs > 0 && <OwnFactors factors={own.factors} />}
      {own.jobs > 0 && (
        <p className="text-quiet">
          A repair that cures several faults counts for each by how likely it was held when it was decided; hence parts
          of a job. Few jobs move the odds little: {percent(1 / (SHAPE + 1))} of the way where one was expected,{" "}
          {percent(20 / (SHAPE + 20))} where twenty were.
        </p>
      )}
    </section>
  );
}
