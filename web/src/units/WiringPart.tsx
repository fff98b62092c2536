import { componentName, siblingsOnNets, type Unit } from "@gearsense/core/unit";
import { Wiring } from "./Wiring.tsx";

/** Sensors with the gears in which they read, what shares a wire with what, and the codes that speak of them. */
export function WiringPart({ unit }: { unit: Unit }) {
  return (
    <div className="flex flex-col gap-5">
      <section aria-label="Wiring">
        <h2 className="mb-1 text-xl">What shares a wire</h2>
        <Wiring unit={unit} />
      </section>
      <section aria-label="Sensors">
        <h2 className="text-xl">Sensors</h2>
        <table className="mt-1 w-full text-left">
          <thead>
            <tr className="border-b border-ink">
              <th className="py-1">Sensor</th>
              <th>Channel</th>
              <th>Teeth</th>
              <th>Reads in gears</th>
              <th>Shares a net with</th>
            </tr>
          </thead>
          <tbody>
            {unit.sensors.map((s) => (
              <tr key={s.id} className="border-b border-rule align-top">
                <td className="py-1.5 pr-3">{s.name}</td>
                <td className="pr-3 font-mono text-sm">{s.channel}</td>
                <td className="figures pr-3">{s.teeth ?? "–"}</td>
                <td className="pr-3">{s.validGears === "all" ? "all" : s.validGears.join(", ")}</td>
                <td>
                  {siblingsOnNets(unit, s.id)
                    .map((o) => componentName(unit, o.id))
                    .join(", ") || "nothing"}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </section>
      <section aria-label="Codes">
        <h2 className="text-xl">Codes the controller can set</h2>
        <table className="mt-1 w-full text-left">
          <thead>
            <tr className="border-b border-ink">
              <th className="py-1">Code</th>
              <th>Meaning</th>
              <th>Set when</th>
              <th>Speaks of</th>
            </tr>
          </thead>
          <tbody>
            {unit.codes.map((c) => (
              <tr key={c.code} className="border-b border-rule align-top">
                <td className="figures py-1.5 pr-3 text-lg">{c.code}</td>
                <td className="pr-3">{c.text}</td>
                <td className="pr-3 text-quiet">{c.condition ?? "–"}</td>
                <td className="text-sm">{c.components.map((id) => componentName(unit, id)).join(", ")}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </section>
    </div>
  );
}
