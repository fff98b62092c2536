import type { Unit } from "@gearsense/core/unit";
import type { ReactNode } from "react";
import { useSettings } from "../settings/settings.tsx";
import { Cautions } from "../shared/Caution.tsx";
import { PlainTable } from "../shared/PlainTable.tsx";
import { PAN_SEAL_WORDS } from "./kind-words.ts";

function Facts({ title, rows }: { title: string; rows: readonly (readonly [string, ReactNode])[] }) {
  return (
    <section aria-label={title} className="border border-rule bg-panel p-4">
      <h2 className="text-xl">{title}</h2>
      <dl className="mt-1">
        {rows.map(([name, value]) => (
          <div key={name} className="flex justify-between gap-4 border-b border-rule py-1.5">
            <dt className="text-quiet">{name}</dt>
            <dd className="figures text-right">{value}</dd>
          </div>
        ))}
      </dl>
    </section>
  );
}

/** Fluid, limits, fasteners, adaptation values and relearn procedures, as the unit file gives them. */
export function ServicePart({ unit }: { unit: Unit }) {
  const { show, showRange } = useSettings();
  const { fluid, converter, limits } = unit;
  const maybe = (v: number | undefined, q: Parameters<typeof show>[1], decimals?: number) =>
    v === undefined ? "not given" : show(v, q, decimals);
  return (
    <div className="flex flex-col gap-5">
      <Cautions names={["under-vehicle", "hot-fluid"]} />
      <div className="grid items-start gap-4 lg:grid-cols-2">
        <Facts
          title="Fluid"
          rows={[
            ["Specification", fluid.spec],
            ["Total", show(fluid.totalL, "volume")],
            ["Pan drain", show(fluid.panDrainL, "volume")],
            ["Pan is sealed by", fluid.panSeal ? PAN_SEAL_WORDS[fluid.panSeal] : "not given"],
            ["Converter", maybe(fluid.converterL, "volume")],
            ["Cooler and lines", maybe(fluid.coolerL, "volume")],
            ["Level window", showRange(fluid.level.windowC[0], fluid.level.windowC[1], "temperature")],
            ["Interval", show(fluid.intervalKm, "distance")],
          ]}
        />
        <Facts
          title="Limits"
          rows={[
            ["Largest input torque", show(unit.maxInputTorqueNm, "torque")],
            ["Slip in gear", maybe(limits.slipRpm, "speed-rpm")],
            ["Converter clutch, residual slip", maybe(limits.residualSlipRpm, "speed-rpm")],
            ["Shudder, peak to peak", maybe(limits.shudderPeakToPeakRpm, "speed-rpm")],
            ["Engagement", maybe(limits.engagementDelayS, "duration")],
            ...(converter
              ? ([
                  ["Converter, stall torque ratio", converter.stallTorqueRatio.toFixed(2)],
                  [
                    "Converter, stall speed",
                    `${show(converter.stallRpm, "speed-rpm")}${converter.stallTorqueNm ? ` at ${show(converter.stallTorqueNm, "torque")}` : ""}`,
                  ],
                ] as const)
              : []),
          ]}
        />
      </div>
      <section aria-label="Filling">
        <h2 className="text-xl">Level and filling</h2>
        <p>{fluid.level.steps}</p>
        <ol className="mt-1 list-decimal pl-6">
          {(fluid.fillSteps ?? []).map((s) => (
            <li key={s}>{s}</li>
          ))}
        </ol>
      </section>
      {(unit.fasteners ?? []).length > 0 && (
        <section aria-label="Fasteners">
          <h2 className="text-xl">Fasteners</h2>
          <PlainTable
            columns={["Fastener", "Thread", "Length", "Count", "Torque", "Note"]}
            figures={[1, 2, 3, 4]}
            rows={(unit.fasteners ?? []).map((f) => [
              f.name,
              f.thread,
              show(f.lengthMm, "length", 0),
              f.count,
              `${show(f.torqueNm, "torque")}${f.angleDeg ? ` + ${f.angleDeg}°` : ""}`,
              [f.order && "in the order given", f.oneTime && "use once"].filter(Boolean).join(", "),
            ])}
          />
        </section>
      )}
      {(unit.adaptations ?? []).length > 0 && (
        <section aria-label="Adaptation values">
          <h2 className="text-xl">Adaptation values</h2>
          <PlainTable
            columns={["Value", "New", "Limits"]}
            figures={[1, 2]}
            rows={(unit.adaptations ?? []).map((a) => [
              a.name,
              `${a.newValue} ${a.unit}`,
              `${a.limits[0]}–${a.limits[1]} ${a.unit}`,
            ])}
          />
        </section>
      )}
      {unit.relearn?.map((r) => (
        <section key={r.id} aria-label={r.name}>
          <h2 className="text-xl">{r.name}</h2>
          <p>
            <span className="label">After:</span> {r.after.join("; ")}.
          </p>
          <p>
            <span className="label">Only with:</span> {r.needs.join("; ")}.
          </p>
          <ol className="mt-1 list-decimal pl-6">
            {r.steps.map((s) => (
              <li key={s}>{s}</li>
            ))}
          </ol>
        </section>
      ))}
    </div>
  );
}
