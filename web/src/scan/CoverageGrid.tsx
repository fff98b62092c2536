import { type Coverage, ENOUGH_S } from "@gearsense/core/drive";
import clsx from "clsx";
import { useSettings } from "../settings/settings.tsx";

const LOADS = ["coast", "light", "medium", "hard"] as const;

function Cell({ seconds }: { seconds: number | undefined }) {
  const { show } = useSettings();
  if (seconds === undefined) return <td className="border border-rule bg-ground p-1 text-center text-quiet">–</td>;
  const enough = seconds >= ENOUGH_S;
  return (
    <td
      className={clsx(
        "figures border border-rule p-1.5 text-center",
        enough ? "bg-clear-wash" : seconds > 0 ? "bg-caution-wash" : "bg-panel text-quiet",
      )}
    >
      {seconds > 0 ? show(seconds, "duration", 0) : "none"}
    </td>
  );
}

/**
 * What the drive exercised and what is missing before the unit can be called good.
 * @param next - whether to say what to drive next
 */
export function CoverageGrid({ coverage, next = true }: { coverage: Coverage; next?: boolean }) {
  const { show } = useSettings();
  const missing = coverage.shifts.filter((s) => s.count === 0);
  // a dual clutch has no converter
  const lockup = coverage.gears.some((g) => g.lockupSeconds !== undefined);
  const made = coverage.shifts.filter((s) => s.count > 0);
  return (
    <div className={clsx("grid items-start gap-6", next && "xl:grid-cols-[1fr_380px]")}>
      <section aria-label="Gears and loads">
        <h3 className="text-lg">{Math.round(coverage.share * 100)} % of what should be driven was driven</h3>
        <table className="mt-1 w-full border-collapse">
          <thead>
            <tr>
              <th className="p-1 text-left">Gear</th>
              {LOADS.map((l) => (
                <th key={l} className="p-1">
                  {l}
                </th>
              ))}
              {lockup && <th className="p-1">converter clutch</th>}
            </tr>
          </thead>
          <tbody>
            {coverage.gears.map((g) => (
              <tr key={g.gear}>
                <th className="figures p-1 text-left text-lg">{g.gear}</th>
                {g.seconds.map((s, i) => (
                  <Cell key={LOADS[i]} seconds={s} />
                ))}
                {lockup && <Cell seconds={g.lockupSeconds} />}
              </tr>
            ))}
          </tbody>
        </table>
        <p className="mt-2 text-sm text-quiet">
          {ENOUGH_S} s of a gear at a load are enough to judge it. Shifts made:{" "}
          {made.map((s) => `${s.name} ${s.count}×`).join(", ") || "none"}.
          {missing.length > 0 && ` Not made: ${missing.map((s) => s.name).join(", ")}.`} Reverse{" "}
          {show(coverage.reverseSeconds, "duration", 0)}, kick-downs {coverage.kickDowns}, cold{" "}
          {show(coverage.coldSeconds, "duration", 0)}, hot {show(coverage.hotSeconds, "duration", 0)}.
        </p>
      </section>
      {next && (
        <section aria-label="Drive this next" className="border border-rule bg-panel p-3">
          <h3 className="text-lg">Drive this next</h3>
          {coverage.next.length === 0 ? (
            <p>Nothing is missing.</p>
          ) : (
            <ol className="list-decimal pl-5">
              {coverage.next.slice(0, 8).map((n) => (
                <li key={n}>{n}</li>
              ))}
            </ol>
          )}
          {coverage.next.length > 8 && <p className="text-sm text-quiet">and {coverage.next.length - 8} more</p>}
        </section>
      )}
    </div>
  );
}
