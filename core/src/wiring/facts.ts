import type { Evidence } from "../suspect/index.ts";
import type { Unit } from "../unit/index.ts";
import type { Known, Measured } from "./circuit.ts";

/** Checks that measure a part or a net, and whether a good reading clears it or only a bad one tells. */
const MEASURES: Readonly<Record<string, "both" | "bad-only">> = {
  resistance: "both",
  "coil-insulation": "bad-only",
  "coil-hot": "bad-only",
  "solenoid-current": "bad-only",
  "solenoid-drive": "bad-only",
  "sensor-swap": "both",
  "temperature-resistance": "both",
  "wire-bend": "both",
  "wire-insulation": "bad-only",
  "supply-voltage": "both",
  "supply-fuse": "bad-only",
  "ground-voltage": "both",
};

/**
 * What the evidence says of circuits: a sensor that drops out is dead, one that reads steadily works; a code of one
 * circuit is dead, and where codes were read a solenoid whose own code is absent has current.
 */
export function circuitFacts(
  unit: Unit,
  evidence: readonly Evidence[],
): { readonly known: Known[]; readonly measured: Measured[] } {
  const known = new Map<string, Known>();
  const measured: Measured[] = [];
  const say = (component: string, state: Known["state"], e: Evidence) => {
    // dead by one sign and working by another: it is dead now and then
    if (state === "dead" || !known.has(component))
      known.set(component, { component, state, because: e.label, entryId: e.entryId });
  };
  const isPart = (id: string) => unit.sensors.some((s) => s.id === id) || unit.solenoids.some((s) => s.id === id);
  for (const e of evidence) {
    const { component = "" } = e.subject;
    if (e.table === "sensor" && e.outcome !== "ripples") say(component, e.outcome === "steady" ? "works" : "dead", e);
    if (e.table === "code") {
      const about = unit.codes.find((c) => c.code === e.subject.code)?.components ?? [];
      const parts = about.filter(isPart);
      const circuit = about.every((id) => isPart(id) || unit.nets.some((n) => n.id === id));
      const [part] = parts;
      if (part === undefined || parts.length !== 1 || !circuit) continue;
      const solenoid = unit.solenoids.some((s) => s.id === part);
      if (e.outcome === "present") say(part, "dead", e);
      else if (solenoid) say(part, "works", e);
    }
    if (e.table === "check") {
      const way = MEASURES[(e.checkId ?? "").split(":")[0] ?? ""];
      if (way && (way === "both" || e.abnormal))
        measured.push({ subject: component, good: !e.abnormal, because: e.label, entryId: e.entryId });
    }
  }
  return { known: [...known.values()], measured };
}
