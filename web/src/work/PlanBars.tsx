import type { PlanOfJob } from "@gearsense/contract";
import type { EntryOf } from "@gearsense/core/job";
import { timeLost } from "@gearsense/core/procedure";
import clsx from "clsx";
import { hours } from "./hours.ts";
import { PLACES } from "./places.ts";

const ROW = 22;
const WIDTH = 640;

/** The plan as bars in the suggested order, the critical path marked; hours against the plan, and where time was lost. */
export function PlanBars({
  data,
  done,
  steps,
}: {
  data: PlanOfJob;
  done: ReadonlySet<string>;
  steps: readonly EntryOf<"step">[];
}) {
  const byKey = new Map(data.steps.map((s) => [s.key, s]));
  const total = Math.max(1, data.totalMin);
  const { lost, takenMin, plannedMin } = timeLost(
    data.steps,
    steps.map((s) => s.body),
  );
  const left = data.steps.filter((s) => !done.has(s.key)).reduce((sum, s) => sum + s.minutes[1], 0);
  const speak = data.steps.reduce((n, s) => Math.max(n, s.own?.jobs ?? 0), 0);
  return (
    <details className="border border-rule bg-panel p-3">
      <summary className="label flex min-h-11 cursor-pointer items-center text-lg">
        Plan as bars: {hours(data.totalMin)} for one person, {hours(data.criticalMin)} along the critical path
      </summary>
      <p>
        {takenMin > 0
          ? `${hours(takenMin)} taken for what was planned at ${hours(plannedMin)}; at this pace ${hours((left * takenMin) / Math.max(1, plannedMin))} are left.`
          : "No minutes were taken yet."}{" "}
        {speak > 0 &&
          `Minutes of ${data.steps.filter((s) => s.own).length} steps are the shop’s own, from up to ${speak} jobs.`}
      </p>
      {lost.length > 0 && (
        <p>
          Time was lost at:{" "}
          {lost
            .slice(0, 4)
            .map(
              (t) =>
                `${t.title} (${hours(t.minutes)} for ${hours(t.likelyMin)}${t.trouble.length > 0 ? `: ${t.trouble.join(", ")}` : ""})`,
            )
            .join("; ")}
          .
        </p>
      )}
      <div className="mt-2 overflow-x-auto">
        <ol className="min-w-[760px]">
          {data.order.map((o) => {
            const s = byKey.get(o.key);
            if (!s) return null;
            const critical = o.slackMin < 0.5;
            const ticked = done.has(o.key);
            const wait = s.wait?.minutes[1] ?? 0;
            const x = (min: number) => (WIDTH * min) / total;
            return (
              <li key={o.key} className="grid grid-cols-[300px_1fr] items-center gap-2 border-b border-rule">
                <span className={clsx("truncate text-sm", ticked && "text-quiet")} title={s.title}>
                  {ticked ? "✓ " : ""}
                  {s.title}
                  <span className="text-quiet"> · {PLACES[s.place]}</span>
                </span>
                <svg
                  viewBox={`0 0 ${WIDTH} ${ROW}`}
                  preserveAspectRatio="none"
                  className="h-[22px] w-full"
                  role="img"
                  aria-label={`from ${hours(o.startMin)} to ${hours(o.endMin)}${critical ? ", on the critical path" : `, may be ${hours(o.slackMin)} later`}`}
                >
                  {wait > 0 && (
                    <rect x={x(o.endMin)} y={ROW / 2 - 1.5} width={x(wait)} height="3" className="fill-field" />
                  )}
                  <rect
                    x={x(o.startMin)}
                    y={critical ? 3 : 6}
                    width={Math.max(1.5, x(o.endMin - o.startMin))}
                    height={critical ? ROW - 6 : ROW - 12}
                    className={ticked ? "fill-clear" : critical ? "fill-action" : "fill-slate"}
                  />
                </svg>
              </li>
            );
          })}
        </ol>
      </div>
      <p className="text-sm text-quiet">
        High bars are on the critical path: what is late there makes the whole late. A thin line is a wait.
      </p>
    </details>
  );
}
