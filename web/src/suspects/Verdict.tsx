import type { SuspectsView } from "@gearsense/contract";
import { percent } from "@gearsense/core/quantity";
import { useState } from "react";
import { Link } from "react-router";
import { useOrders } from "../api/queries.ts";
import { useJob } from "../job/job-context.tsx";
import { Button, Notice } from "../shared/controls.tsx";

type Ranking = SuspectsView["ranking"];

/** The likeliest explanations: one fault, or several that only together explain what was seen. */
export function Explanations({ ranking }: { ranking: Ranking }) {
  return (
    <section aria-label="Explanations">
      <h3 className="text-[17px]">What explains all that was seen</h3>
      <ul>
        {ranking.explanations.map((x) => (
          <li key={x.faultIds.join()} className="border-b border-rule py-1.5">
            <span className="flex justify-between gap-3">
              <span>{x.titles.join(" and ")}</span>
              <span className="figures text-lg">{percent(x.probability)}</span>
            </span>
            {x.unexplained.length > 0 && (
              <span className="block text-sm text-quiet">leaves unexplained: {x.unexplained.join("; ")}</span>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

/** Which entries carry the verdict: what would lead without each, and if it had shown the contrary. */
export function Leverage({
  ranking,
  sourceOf,
}: {
  ranking: Ranking;
  sourceOf: (evidenceId: string) => string | undefined;
}) {
  if (ranking.leverage.length === 0)
    return <p className="text-quiet">Nothing alone carries it: no entry moves the leading suspect by much.</p>;
  return (
    <table className="w-full text-left">
      <thead>
        <tr className="border-b border-ink">
          <th className="py-1">If this were wrong</th>
          <th className="w-[22%]">the leading one falls to</th>
          <th className="w-[38%]">and this would lead</th>
        </tr>
      </thead>
      <tbody>
        {ranking.leverage.map((l) => {
          const to = sourceOf(l.evidenceIds[0] ?? "");
          const then = l.contrary ?? l.without;
          return (
            <tr key={l.evidenceIds.join()} className="border-b border-rule align-top">
              <td className="py-1.5 pr-2">
                {to ? (
                  <Link className="underline" to={to}>
                    {l.label}
                  </Link>
                ) : (
                  l.label
                )}
              </td>
              <td className="figures py-1.5 text-lg">{percent(l.leaderWithout)}</td>
              <td className="py-1.5">
                {l.flips ? <span className="label text-stop">turns: </span> : null}
                {l.without.titles.join(" and ")} <span className="figures">{percent(l.without.probability)}</span>
                {l.contrary && then.titles.join() !== l.without.titles.join() && (
                  <span className="block text-sm text-quiet">
                    had it shown the contrary: {then.titles.join(" and ")} {percent(then.probability)}
                  </span>
                )}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

/** What could not be counted, what two drives show differently, and when nothing explains it well. */
export function Doubts({ data }: { data: SuspectsView }) {
  const differs = data.evidence.filter((e) => e.butIn);
  const [best] = data.ranking.explanations;
  return (
    <>
      {data.ranking.poorlyExplained && (
        <Notice tone="caution" title="Nothing here explains it well">
          {best && best.unexplained.length > 0
            ? `Even the best, ${best.titles.join(" and ")}, leaves unexplained: ${best.unexplained.join("; ")}.`
            : "The known faults fit badly together with what was seen."}{" "}
          Look for an entry that is wrong, or for something that is not in the catalogue.
        </Notice>
      )}
      {data.problems.length > 0 && (
        <Notice
          tone="caution"
          title={
            data.problems.length === 1 ? "One entry is not counted" : `${data.problems.length} entries are not counted`
          }
        >
          <ul aria-label="Entries that are not counted">
            {data.problems.map((p) => (
              <li key={p.evidenceId}>
                {p.label}: {p.reason}.
              </li>
            ))}
          </ul>
        </Notice>
      )}
      {differs.length > 0 && (
        <Notice tone="plain" title="Two drives show different things">
          <ul aria-label="Drives that differ">
            {differs.map((e) => (
              <li key={e.id}>
                {e.label}, but in another log: {e.butIn}. It may come and go, or need other conditions.
              </li>
            ))}
          </ul>
        </Notice>
      )}
    </>
  );
}

/** What the ways of working that people argue about would cost from here. */
export function Orders({ money }: { money: (n: number) => string }) {
  const { job } = useJob();
  const [wanted, setWanted] = useState(false);
  const { data: orders, error } = useOrders(job.id, wanted);
  if (error) return <p className="text-stop">{error.message}</p>;
  if (!wanted)
    return (
      <div>
        <Button onClick={() => setWanted(true)}>Compare ways of working</Button>
        <p className="text-sm text-quiet">
          What this, cheapest check first and straight to the likeliest cost to a right repair. Takes some seconds.
        </p>
      </div>
    );
  const rows = [
    ["this way, by likely total", orders?.expectedCost],
    ["cheapest check first", orders?.cheapestFirst],
    ["straight to the likeliest", orders?.likeliestFirst],
  ] as const;
  const most = Math.max(1, ...rows.map(([, v]) => v ?? 0));
  // as high while they are followed as afterwards: what stands beneath must not move away under a finger
  return (
    <section aria-label="Ways of working compared">
      <h3 className="text-[17px]">To a right repair, on average</h3>
      <table className="w-full">
        <tbody>
          {rows.map(([label, value], i) => (
            <tr key={label}>
              <th scope="row" className="w-[46%] py-0.5 text-left font-normal">
                {label}
              </th>
              <td className="w-[34%]">
                <span
                  aria-hidden="true"
                  className={i === 0 ? "block h-3 bg-action" : "block h-3 bg-field"}
                  style={{ width: `${((value ?? 0) / most) * 100}%` }}
                />
              </td>
              <td className="figures text-right">{value === undefined ? "–" : money(value)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="text-sm text-quiet" role="status">
        {orders
          ? `Each followed on the same ${orders.samples} vehicles drawn from these odds.`
          : "Following the ways of working …"}
      </p>
    </section>
  );
}
