import type { Analysis } from "@gearsense/core/drive";
import { useSettings } from "../settings/settings.tsx";
import { type Cell, PlainTable } from "../shared/PlainTable.tsx";

function Table({
  title,
  columns,
  rows,
  empty,
}: {
  title: string;
  columns: readonly string[];
  rows: readonly (readonly Cell[])[];
  empty: string;
}) {
  return (
    <section aria-label={title}>
      <h3 className="mt-2 text-lg">{title}</h3>
      {rows.length === 0 ? (
        <p className="text-quiet">{empty}</p>
      ) : (
        <PlainTable columns={columns} rows={rows} figures={true} />
      )}
    </section>
  );
}

/** Every measure of a drive, good and bad alike; the shifts have a tab of their own. */
export function MeasuresTables({ analysis, dual }: { analysis: Analysis; dual: boolean }) {
  const { show } = useSettings();
  const maybe = (v: number | undefined, quantity: Parameters<typeof show>[1], decimals?: number) =>
    v === undefined ? "–" : show(v, quantity, decimals);
  const loads = ["coast", "light", "medium", "hard", "unknown"];
  const groups = [...analysis.held.groups].sort(
    (a, b) =>
      Number(a.gear) - Number(b.gear) ||
      loads.indexOf(a.load) - loads.indexOf(b.load) ||
      a.temperature.localeCompare(b.temperature),
  );
  return (
    <div className="flex flex-col gap-3">
      <Table
        title="Gears held"
        columns={["Gear", "Load", "Fluid", "Driven", "Slip, median", "Slip, 95th percentile", "Ratio error"]}
        rows={groups.map((g) => [
          g.gear,
          g.load,
          g.temperature,
          show(g.seconds, "duration", 0),
          show(g.slipMedianRpm, "speed-rpm"),
          show(g.slipP95Rpm, "speed-rpm"),
          show(g.ratioErrorPct, "percent", 1),
        ])}
        empty="No gear was held long enough to be judged."
      />
      {analysis.converter && (
        <Table
          title={`Converter clutch: open ${show(analysis.converter.secondsOpen, "duration", 0)}, applying ${show(analysis.converter.secondsApplying, "duration", 0)}, applied ${show(analysis.converter.secondsApplied, "duration", 0)}`}
          columns={["From", "To", "Gears", "Time to apply", "State", "Residual slip", "Torque"]}
          rows={analysis.converter.episodes.map((e) => [
            show(e.startS, "duration", 1),
            show(e.endS, "duration", 1),
            e.gears.join(", "),
            maybe(e.applyS, "duration"),
            e.state,
            show(e.residualSlipRpm, "speed-rpm"),
            maybe(e.torqueNm, "torque"),
          ])}
          empty="The converter clutch was never commanded long enough to be judged."
        />
      )}
      {(analysis.converter?.hunting.length ?? 0) > 0 && (
        <Table
          title="Converter clutch hunting"
          columns={["From", "To", "Gear", "Let go and taken again", "A minute", "Speed"]}
          rows={(analysis.converter?.hunting ?? []).map((h) => [
            show(h.startS, "duration", 1),
            show(h.endS, "duration", 1),
            h.gear,
            h.cycles,
            h.cyclesPerMin.toFixed(1),
            maybe(h.vehicleKmh, "vehicle-speed"),
          ])}
          empty=""
        />
      )}
      {dual ? (
        <Table
          title="Launches"
          columns={["At", "Gear", "Slips for", "Highest slip", "Energy, kJ", "Ripple", "Torque", "Clutch"]}
          rows={analysis.launches.map((l) => [
            show(l.startS, "duration", 1),
            l.gear,
            l.closed ? show(l.slipS, "duration") : `${show(l.slipS, "duration")}, not closed`,
            show(l.highestSlipRpm, "speed-rpm"),
            l.energyKj === undefined ? "–" : l.energyKj.toFixed(0),
            l.judder
              ? `${show(l.judder.peakToPeak, "speed-rpm")} at ${show(l.judder.frequencyHz, "frequency")}${l.vibrationDies ? ", dies away" : ""}`
              : "–",
            maybe(l.torqueNm, "torque"),
            maybe(l.clutchC, "temperature"),
          ])}
          empty="No start from rest was driven."
        />
      ) : (
        <Table
          title="Engagements from P or N"
          columns={["At", "Into", "Delay", "Jolt of the turbine", "Fluid"]}
          rows={analysis.engagements.map((e) => [
            show(e.commandS, "duration", 1),
            e.range,
            e.delayS === undefined ? "not engaged" : show(e.delayS, "duration"),
            maybe(e.joltRpmPerS, "speed-rate"),
            maybe(e.fluidC, "temperature"),
          ])}
          empty="No gear was engaged at rest."
        />
      )}
      {analysis.stallTests.length > 0 && (
        <Table
          title="Stall tests"
          columns={["At", "Held", "Stall speed", "Expected at this torque", "Fluid"]}
          rows={analysis.stallTests.map((t) => [
            show(t.startS, "duration", 1),
            t.tooLong ? `${show(t.endS - t.startS, "duration", 1)}, too long` : show(t.endS - t.startS, "duration", 1),
            show(t.engineRpm, "speed-rpm"),
            maybe(t.expectedRpm, "speed-rpm"),
            maybe(t.fluidC, "temperature"),
          ])}
          empty=""
        />
      )}
      <Table
        title="Coast to rest"
        columns={["From", "To", "From speed", "Downshifts", "Worst jolt", "At"]}
        rows={analysis.coastStops.map((c) => [
          show(c.startS, "duration", 1),
          show(c.endS, "duration", 1),
          show(c.fromKmh, "vehicle-speed"),
          c.downshifts,
          maybe(c.worstJoltRpmPerS, "speed-rate"),
          maybe(c.worstAtS, "duration", 1),
        ])}
        empty="No stop with the pedal up from over 25 km/h was driven."
      />
      {analysis.heat && (
        <Table
          title={`Heat of the ${analysis.heat.sensor}`}
          columns={[
            "From",
            "Highest",
            `Over ${[110, 120, 135].map((c) => show(c, "temperature")).join(", ")}`,
            "Fastest rise, K a minute",
            "Made by slip, kJ",
            "Cooler",
          ]}
          rows={[
            [
              show(analysis.heat.fromC, "temperature"),
              show(analysis.heat.highestC, "temperature"),
              analysis.heat.secondsAbove.map((s) => show(s, "duration", 0)).join(", "),
              analysis.heat.fastestRiseKPerMin?.toFixed(1) ?? "–",
              analysis.heat.slipEnergyKj?.toFixed(0) ?? "–",
              analysis.heat.cooler,
            ],
          ]}
          empty=""
        />
      )}
      {analysis.adaptations.length > 0 && (
        <Table
          title="Learned values"
          columns={["Value", "At the start", "At the end", "Limits", "Way to the limit"]}
          rows={analysis.adaptations.map((a) => [
            a.name,
            `${a.first} ${a.unit}`,
            `${a.last} ${a.unit}`,
            `${a.limits[0]} to ${a.limits[1]}`,
            show(a.used * 100, "percent", 0),
          ])}
          empty=""
        />
      )}
    </div>
  );
}
