import { componentName, siblingsOnNets, type Unit } from "@gearsense/core/unit";
import { PlainTable } from "../shared/PlainTable.tsx";
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
        <PlainTable
          columns={["Sensor", "Channel", "Shaft", "Teeth", "Reads in gears", "Shares a net with"]}
          figures={[3]}
          rows={unit.sensors.map((s) => [
            s.name,
            <span key="channel" className="font-mono text-sm">
              {s.channel}
            </span>,
            s.shaft ?? "–",
            s.teeth ?? "–",
            s.validGears === "all" ? "all" : s.validGears.join(", "),
            siblingsOnNets(unit, s.id)
              .map((o) => componentName(unit, o.id))
              .join(", ") || "nothing",
          ])}
        />
      </section>
      <section aria-label="Codes">
        <h2 className="text-xl">Codes the controller can set</h2>
        <PlainTable
          columns={["Code", "Meaning", "Set when", "Speaks of"]}
          figures={[0]}
          rows={unit.codes.map((c) => [
            c.code,
            c.text,
            c.condition ?? "–",
            c.components.map((id) => componentName(unit, id)).join(", "),
          ])}
        />
      </section>
    </div>
  );
}
