import type { Unit } from "@gearsense/core/unit";

/** A trouble code as the controller keeps it. */
export interface StoredCode {
  readonly code: string;
  readonly text: string;
  readonly timeS: number;
  /** what the controller read at that moment */
  readonly freezeFrame: Readonly<Record<string, number>>;
}

/** What a controller can be in doubt about; the code it sets for it is the unit file's. */
export type Doubt =
  | { readonly about: "sensor"; readonly sensor: string }
  | { readonly about: "ratio" | "converter-clutch" | "pressure" | "clutch" | "supply" }
  | { readonly about: "circuit"; readonly solenoid: string }
  /** a fork that was sent and did not report to be in; without any signal of its position */
  | { readonly about: "fork"; readonly fork: string; readonly signal: boolean };

/** Code of the unit file that speaks of a doubt. @returns undefined when the unit's controller has none */
export function codeFor(unit: Unit, doubt: Doubt): Unit["codes"][number] | undefined {
  const solenoid = (c: string) => unit.solenoids.some((s) => s.id === c);
  const net = (c: string) => unit.nets.some((n) => n.id === c);
  const pack = (c: string) => unit.elements.some((e) => e.id === c);
  return unit.codes.find(({ components: c, ofSignal = false }) => {
    switch (doubt.about) {
      case "sensor":
        return c.includes(doubt.sensor);
      case "fork":
        return c.includes(doubt.fork) && ofSignal === !doubt.signal;
      case "circuit":
        return c.includes(doubt.solenoid) && c.every((x) => solenoid(x) || net(x));
      case "ratio":
        return c.some(pack) && unit.kind === "planetary";
      case "clutch":
        return c.some(pack) && unit.kind !== "planetary";
      case "converter-clutch":
        return c.includes("converter-clutch");
      default:
        return c.includes("line-pressure") && !c.some(pack);
    }
  });
}

/** Counts how long something has been true without a break. */
export class Timer {
  private heldS = 0;
  /** @returns true once it has been true for `forS` */
  tick(dtS: number, is: boolean, forS: number): boolean {
    this.heldS = is ? this.heldS + dtS : 0;
    return this.heldS >= forS;
  }
  reset(): void {
    this.heldS = 0;
  }
}

/** Codes set in one ignition cycle, each once, with its freeze frame. */
export class CodeMemory {
  readonly stored: StoredCode[] = [];
  private readonly unit: Unit;

  constructor(unit: Unit) {
    this.unit = unit;
  }

  /** @returns true when the doubt has a code; it is stored the first time */
  set(doubt: Doubt, timeS: number, freezeFrame: Readonly<Record<string, number>>): boolean {
    const known = codeFor(this.unit, doubt);
    if (!known) return false;
    if (!this.stored.some((c) => c.code === known.code))
      this.stored.push({ code: known.code, text: known.text, timeS, freezeFrame: { ...freezeFrame } });
    return true;
  }
  clear(): void {
    this.stored.length = 0;
  }
}
