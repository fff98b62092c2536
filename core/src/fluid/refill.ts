import type { Fastener, Unit } from "../unit/index.ts";
import { expandedL, expectedDrainL } from "./level.ts";

/** What left the unit. */
export interface Lost {
  readonly drainedL: number;
  /** temperature of the drain; null: not measured, taken as it is */
  readonly drainedC: number | null;
  /** spilt, in filter and rags, beside what was caught */
  readonly spiltL: number;
  /** the cooler lines were opened and ran empty */
  readonly linesOpened: boolean;
  /** the converter was drained or changed for an empty one */
  readonly converterDrained: boolean;
}

export interface Refill {
  readonly parts: readonly { readonly what: "drained" | "spilt" | "lines" | "converter"; readonly litres: number }[];
  /** at the reference temperature of the unit file */
  readonly litres: number;
  readonly referenceC: number;
  /** what came out and what it should have been, both at the temperature of the drain; over a tenth off is told */
  readonly drainedL: number;
  readonly expectedL: number;
  readonly off: boolean;
}

/** A drain that differs by more than this share from the expected one is told. */
export const DRAIN_OFF = 0.1;

/** Litres to fill: what ran out, taken to the reference temperature, with spill, lines and converter. ΔV = V·β·ΔT. */
export function refillOf(unit: Unit, lost: Lost): Refill {
  const { referenceC } = unit.fluid.level;
  const { drainedL, drainedC } = lost;
  const parts: { what: Refill["parts"][number]["what"]; litres: number }[] = [
    { what: "drained", litres: expandedL(drainedL, drainedC ?? referenceC, referenceC) },
  ];
  if (lost.spiltL > 0) parts.push({ what: "spilt", litres: lost.spiltL });
  if (lost.linesOpened && unit.fluid.coolerL) parts.push({ what: "lines", litres: unit.fluid.coolerL });
  const converter = unit.converter?.drainedL ?? unit.fluid.converterL;
  if (lost.converterDrained && converter) parts.push({ what: "converter", litres: converter });
  const expectedL = expectedDrainL(unit, drainedC);
  return {
    parts,
    litres: parts.reduce((s, p) => s + p.litres, 0),
    referenceC,
    drainedL,
    expectedL,
    off: Math.abs(drainedL + lost.spiltL - expectedL) > DRAIN_OFF * expectedL,
  };
}

/** Bolts of the pan and its plug, as the unit file gives them. */
export const panFasteners = (unit: Unit): Fastener[] =>
  (unit.fasteners ?? []).filter((f) => /\b(pan|plug|overflow|drain|filler)\b/i.test(`${f.id} ${f.name}`));

/** How the pan goes back, by the unit file. Sealant on a gasket only where the file says so. */
export function panSealText(unit: Unit): string {
  switch (unit.fluid.panSeal) {
    case "gasket":
      return "New gasket, bare and dry on clean faces. No sealant.";
    case "moulded":
      return "Rubber seal on a steel carrier: used again when it is whole and not swollen, else a new one. No sealant.";
    case "sealant":
      return "A bead of sealant on clean, dry faces, no gasket. Fill when it has set for the time on its tube.";
    case "sealant-and-gasket":
      return "New gasket with sealant, as this unit asks for. Fill when it has set for the time on its tube.";
    case undefined:
      return "The unit file does not say what seals the pan: look at what comes off and ask the maker’s data. Never sealant on a gasket unless they say so.";
  }
}
