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

/** Every measure of a drive, good and bad alike: gears held, shifts, converter clutch. */
export function MeasuresTables({ analysis }: { analysis: Analysis }) {
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
      <Table
        title="Shifts"
        columns={["Shift", "At", "Delay", "Inertia phase", "Flare", "Torque", "Fluid"]}
        rows={analysis.shifts.map((s) => [
          s.name,
          show(s.commandS, "duration", 1),
          s.completed ? maybe(s.delayS, "duration") : "not made",
          maybe(s.inertiaS, "duration"),
          maybe(s.flareRpm, "speed-rpm"),
          maybe(s.torqueNm, "torque"),
          maybe(s.fluidC, "temperature"),
        ])}
        empty="No shift was commanded."
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
    </div>
  );
}
