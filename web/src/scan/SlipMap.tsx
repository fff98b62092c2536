import type { Analysis } from "@gearsense/core/drive";
import type { Unit } from "@gearsense/core/unit";
import clsx from "clsx";
import { useSettings } from "../settings/settings.tsx";

const LOADS = ["coast", "light", "medium", "hard", "unknown"] as const;
const TEMPERATURES = ["cold", "warm", "hot", "unknown"] as const;

/** Slip by gear, torque and temperature: where it begins is seen at a glance, and where nobody drove. */
export function SlipMap({ analysis, unit }: { analysis: Analysis; unit: Unit }) {
  const { show } = useSettings();
  const { groups } = analysis.held;
  const limit = unit.limits.slipRpm ?? 50;
  const temperatures = TEMPERATURES.filter((t) => groups.some((g) => g.temperature === t));
  const loads = LOADS.filter((l) => l !== "unknown" || groups.some((g) => g.load === l));
  const gears = unit.gears.filter((g) => g.ratio > 0).map((g) => g.name);
  if (groups.length === 0) return <p className="text-quiet">No gear was held long enough to be judged.</p>;
  return (
    <div>
      <div className="grid gap-5 xl:grid-cols-2">
        {temperatures.map((t) => (
          <table key={t} className="w-full border-collapse">
            <caption className="label pb-1 text-left text-lg">
              {t === "unknown" ? "Temperature unknown" : { cold: "Cold", warm: "Warm", hot: "Hot" }[t]}
            </caption>
            <thead>
              <tr>
                <th className="p-1 text-left">Gear</th>
                {loads.map((l) => (
                  <th key={l} className="p-1">
                    {l}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {gears.map((gear) => (
                <tr key={gear}>
                  <th className="figures p-1 text-left text-lg">{gear}</th>
                  {loads.map((load) => {
                    const g = groups.find((x) => x.gear === gear && x.load === load && x.temperature === t);
                    if (!g)
                      return (
                        <td key={load} className="border border-rule bg-ground p-1.5 text-center text-sm text-quiet">
                          not driven
                        </td>
                      );
                    const share = g.slipP95Rpm / limit;
                    return (
                      <td
                        key={load}
                        title={`${show(g.seconds, "duration", 0)} driven, ratio error ${g.ratioErrorPct.toFixed(1)} %${g.torqueNm ? `, ${show(g.torqueNm[0], "torque")} to ${show(g.torqueNm[1], "torque")}` : ""}`}
                        className={clsx(
                          "figures border border-rule p-1.5 text-center text-[17px]",
                          share > 1 ? "bg-action text-on-action" : share > 0.5 ? "bg-caution-wash" : "bg-panel",
                        )}
                      >
                        {show(g.slipP95Rpm, "speed-rpm")}
                      </td>
                    );
                  })}
                </tr>
              ))}
            </tbody>
          </table>
        ))}
      </div>
      <p className="mt-2 text-sm text-quiet">
        95th percentile of the slip; over {show(limit, "speed-rpm")} is marked. Loads are shares of the unit's largest
        input torque: coast to 2 %, light to 25 %, medium to 60 %, hard above.
      </p>
    </div>
  );
}
