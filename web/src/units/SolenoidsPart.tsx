import { type Stuck, stuckCandidates, type Unit, type WhatIfRow, whatIf } from "@gearsense/core/unit";
import { useState } from "react";
import { Choice, SelectField } from "../shared/controls.tsx";
import { PlainTable } from "../shared/PlainTable.tsx";

const STATE = { on: "on", off: "–", modulated: "~" } as const;

const OBTAINED: Record<WhatIfRow["obtained"]["kind"], (o: WhatIfRow["obtained"]) => string> = {
  gear: (o) => (o.kind === "gear" ? `gear ${o.gear}` : ""),
  foreign: (o) => (o.kind === "foreign" ? `ratio ${o.ratio.toFixed(2)}, no gear of the chart` : ""),
  neutral: () => "no drive",
  "tie-up": () => "ties up: the vehicle brakes or the weaker element slips",
  unknown: () => "unknown without the gear train",
};

/** The solenoid chart, and what each command gives when one element sticks. */
export function SolenoidsPart({ unit }: { unit: Unit }) {
  const elements = [...new Set(stuckCandidates(unit).map((s) => s.component))];
  const [component, setComponent] = useState(elements[0] ?? "");
  const choices = stuckCandidates(unit).filter((s) => s.component === component);
  const key = (s: Stuck) => `${s.state}${s.towards ? ` in ${s.towards}` : ""}`;
  const [picked, setPicked] = useState("");
  const stuck = choices.find((s) => key(s) === picked) ?? choices[0];
  const rows = stuck ? whatIf(unit, stuck) : [];
  const nameOf = (id: string) => unit.elements.find((e) => e.id === id)?.name ?? id;
  return (
    <div className="flex flex-col gap-5">
      <section aria-label="What if">
        <h2 className="text-xl">What if it sticks</h2>
        <div className="mt-2 grid gap-x-8 gap-y-3 border border-rule bg-panel p-4 lg:grid-cols-[minmax(0,4fr)_minmax(0,6fr)]">
          <div className="flex flex-col gap-3">
            <SelectField label="Element" value={component} onChange={(e) => setComponent(e.target.value)}>
              {elements.map((id) => (
                <option key={id} value={id}>
                  {nameOf(id)}
                </option>
              ))}
            </SelectField>
            <Choice
              label="Stays"
              value={stuck ? key(stuck) : undefined}
              options={choices.map((s) => ({ value: key(s), label: key(s) }))}
              onChange={setPicked}
            />
            <p className="text-quiet">
              Fed by{" "}
              {unit.solenoids
                .filter((s) => s.feeds === component)
                .map((s) => s.name)
                .join(", ") || "nothing: it works by itself"}
              .
            </p>
          </div>
          <table className="w-full self-start text-left">
            <thead>
              <tr className="border-b border-ink">
                <th className="py-1">Commanded</th>
                <th>Obtained under drive</th>
              </tr>
            </thead>
            <tbody>
              {rows.map((r) => {
                const as = r.obtained.kind === "gear" && r.obtained.gear === r.commanded;
                return (
                  <tr key={r.commanded} className="border-b border-rule">
                    <td className="figures py-1.5 text-lg">{r.commanded}</td>
                    <td className={as ? "text-quiet" : "font-semibold text-action"}>
                      {as ? "as commanded" : OBTAINED[r.obtained.kind](r.obtained)}
                    </td>
                  </tr>
                );
              })}
            </tbody>
          </table>
        </div>
      </section>
      <section aria-label="Solenoid chart">
        <h2 className="text-xl">Solenoid chart</h2>
        <div className="overflow-x-auto">
          <table className="mt-1 w-full text-center">
            <thead>
              <tr className="border-b border-ink">
                <th className="py-1 text-left">Gear</th>
                {unit.solenoids.map((s) => (
                  <th key={s.id} title={s.name} className="px-1">
                    {s.id.replace(/^sol_/, "")}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {unit.gears.map((g) => (
                <tr key={g.name} className="border-b border-rule">
                  <th className="figures py-1.5 text-left text-lg">
                    {g.name}
                    {g.name === unit.limp.gear && <span className="label pl-2 text-sm text-caution">limp</span>}
                  </th>
                  {unit.solenoids.map((s) => {
                    const state = unit.solenoidChart[g.name]?.[s.id];
                    return (
                      <td key={s.id} className={state === "on" ? "bg-slate text-on-slate" : undefined}>
                        <span className="figures">{state ? STATE[state] : ""}</span>
                      </td>
                    );
                  })}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
        <p className="mt-1 text-sm text-quiet">on: powered · –: not powered · ~: regulated</p>
        <div className="mt-4">
          <PlainTable
            columns={["Solenoid", "Feeds", "Kind", "Resistance at 20 °C", "Without power"]}
            figures={[3]}
            rows={unit.solenoids.map((s) => [
              s.name,
              nameOf(s.feeds).replace("-", " "),
              s.kind.replace("-", " "),
              `${s.resistanceOhmAt20C[0]}–${s.resistanceOhmAt20C[1]} Ω`,
              s.unpoweredState,
            ])}
          />
        </div>
      </section>
    </div>
  );
}
