import type { SuspectsView } from "@gearsense/contract";
import { gearStates, shiftPlan, type Unit } from "@gearsense/core/unit";
import { useMemo, useState } from "react";
import { Choice, Notice } from "../shared/controls.tsx";
import { PlainTable } from "../shared/PlainTable.tsx";
import { ApplicationChart } from "../suspects/ApplicationChart.tsx";
import { Lever } from "./Lever.tsx";

/** The application chart beside what the gear train does in the picked gear. */
export function GearsPart({ unit, chart }: { unit: Unit; chart: SuspectsView["chart"] | undefined }) {
  const [gear, setGear] = useState(unit.gears[0]?.name ?? "1");
  const states = useMemo(() => gearStates(unit), [unit]);
  const state = states?.find((s) => s.gear === gear);
  const forward = unit.gears.filter((g) => g.ratio > 0);
  const next = forward[forward.findIndex((g) => g.name === gear) + 1];
  const plan = forward.some((g) => g.name === gear) && next ? shiftPlan(unit, gear, next.name) : undefined;
  const nameOf = (id: string) => unit.elements.find((e) => e.id === id)?.name ?? id;
  return (
    <div className="flex flex-col gap-4">
      <Choice
        label="Gear"
        value={gear}
        options={unit.gears.map((g) => ({ value: g.name, label: g.name }))}
        onChange={setGear}
      />
      <div className="grid gap-4 xl:grid-cols-[minmax(0,5fr)_minmax(0,6fr)]">
        <div>
          <ApplicationChart unit={unit as never} chart={chart} picked={gear} />
          {unit.neutral && (
            <p className="mt-2 text-[15px]">
              <span className="label">In P and N:</span>{" "}
              {unit.neutral.length === 0
                ? "nothing is applied"
                : `${unit.neutral.map(nameOf).join(", ")} ${unit.neutral.length > 1 ? "stay" : "stays"} applied`}
            </p>
          )}
        </div>
        <section aria-label={`Gear ${gear}`} className="flex flex-col gap-3">
          {!states && (
            <Notice tone="plain" title="This unit has ratios only">
              Can’t work out speeds inside it, torque shares or what a stuck element gives. Add the gear train to its
              file.
            </Notice>
          )}
          {state && (
            <>
              <h2 className="text-xl">
                Gear {gear}: ratio{" "}
                <span className="figures">
                  {(state.state.kind === "gear" ? state.state.ratio : Number.NaN).toFixed(3)}
                </span>
                <span className="text-quiet"> from the teeth</span>
              </h2>
              <table className="w-full text-left">
                <caption className="sr-only">Share of the input torque that each applied element carries</caption>
                <thead>
                  <tr className="border-b border-ink">
                    <th className="py-1">Applied</th>
                    <th className="w-1/2">Torque share of the input</th>
                  </tr>
                </thead>
                <tbody>
                  {[...(state.shares?.elements ?? [])].map(([id, share]) => (
                    <tr key={id} className="border-b border-rule">
                      <td className="py-1.5 pr-3">{nameOf(id)}</td>
                      <td>
                        <span className="flex items-center gap-2">
                          <span
                            aria-hidden="true"
                            className="block h-3 bg-slate"
                            style={{ width: `${Math.min(100, Math.abs(share ?? 0) * 20)}%` }}
                          />
                          <span className="figures">
                            {share === undefined ? "not settled" : Math.abs(share).toFixed(2)}
                          </span>
                        </span>
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
              {plan && (
                <p className="text-[15px]">
                  <span className="label">
                    Shift {plan.from}-{plan.to}:
                  </span>{" "}
                  {plan.offGoing.map(nameOf).join(", ")} off, {plan.onComing.map(nameOf).join(", ")} on, step{" "}
                  <span className="figures">{plan.step.toFixed(2)}</span>
                  {[...plan.slipBefore].map(([id, slip]) => (
                    <span key={id}>
                      ; {id} takes up <span className="figures">{Math.abs(slip).toFixed(2)}</span> of the input speed
                    </span>
                  ))}
                  .
                </p>
              )}
            </>
          )}
          {state && (unit.gearTrain?.sets.length ?? 0) > 0 && (
            <section aria-label="Levers">
              <h2 className="text-xl">Speeds of the sets in gear {gear}</h2>
              <p className="text-quiet">Input turns at 1, the case stands at 0. S sun, R ring, C carrier.</p>
              <div className="mt-1 grid grid-cols-2 gap-3">
                {unit.gearTrain?.sets.map((s) => (
                  <Lever key={s.id} set={s} gear={state} />
                ))}
              </div>
            </section>
          )}
        </section>
      </div>
      {state && (unit.gearTrain?.pairs?.length ?? 0) > 0 && (
        <section aria-label="Gear pairs">
          <h2 className="text-xl">Gear pairs</h2>
          <PlainTable
            columns={["Pair", "Driver", "Driven", "Ratio", "Driven turns at"]}
            figures={[1, 2, 3, 4]}
            rows={(unit.gearTrain?.pairs ?? []).map((p) => {
              const speed = state.state.kind === "tie-up" ? undefined : state.state.speeds.get(p.driven);
              return [
                `${p.id}${p.idler ? ", idler" : ""}`,
                `${p.driver} ${p.driverTeeth}`,
                `${p.driven} ${p.drivenTeeth}`,
                (p.drivenTeeth / p.driverTeeth).toFixed(3),
                speed === undefined ? "free" : speed.toFixed(2),
              ];
            })}
          />
        </section>
      )}
    </div>
  );
}
