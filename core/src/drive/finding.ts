import type { Quantity } from "../quantity/index.ts";
import type { LimitSource } from "./limits.ts";
import type { Frame } from "./signal/frame.ts";
import { extent } from "./signal/stats.ts";

export type FindingKind =
  | "slip"
  | "wrong-gear"
  | "flare"
  | "slow-shift"
  | "quick-shift"
  | "late-shift"
  | "failed-shift"
  | "converter-slip"
  | "converter-stays-on"
  | "hunting"
  | "shudder"
  | "oscillation"
  | "judder"
  | "sensor-ripple"
  | "late-engagement"
  | "no-drive"
  | "engine-pull"
  | "idle"
  | "neutral-pull"
  | "pressure"
  | "cool-down"
  | "power-loss"
  | "gear-hunting"
  | "load-reversal"
  | "harsh-shift"
  | "stall"
  | "heat"
  | "adaptation"
  | "drop-out"
  | "limp";

export interface Occurrence {
  readonly startS: number;
  readonly endS: number;
  readonly value: number;
}

/** A figure of a finding. */
export interface MeasuredValue {
  readonly name: string;
  readonly value: number;
  readonly quantity: Quantity;
}

export interface Conditions {
  readonly gears: readonly string[];
  readonly torqueNm?: readonly [number, number] | undefined;
  readonly fluidC?: readonly [number, number] | undefined;
  readonly vehicleKmh?: readonly [number, number] | undefined;
}

export interface Finding {
  /** stable from log to log: kind and place, "slip:4", "flare:2-3", "drop-out:sen_output" */
  readonly id: string;
  readonly kind: FindingKind;
  readonly title: string;
  /** gear, shift or component it speaks of */
  readonly subject: { readonly gear?: string; readonly shift?: string; readonly component?: string };
  readonly severity: "fault" | "notice";
  readonly startS: number;
  readonly endS: number;
  readonly occurrences: readonly Occurrence[];
  readonly conditions: Conditions;
  /** the first is the one that is judged against the limit */
  readonly measures: readonly [MeasuredValue, ...MeasuredValue[]];
  readonly limit?: { readonly value: number; readonly quantity: Quantity; readonly source: LimitSource } | undefined;
  readonly confidence: {
    readonly level: "high" | "medium" | "low";
    readonly reason: string;
    readonly raise?: string | undefined;
  };
}

/** Lowest and highest of what is known. */
export const range = (values: readonly (number | undefined)[]) =>
  extent(values.filter((v): v is number => v !== undefined && Number.isFinite(v)));

/** How sure a finding is, by how often and how long it was seen, and at which rate. */
export function confidence(frame: Frame, times: number, seconds: number, needsRateHz: number): Finding["confidence"] {
  if (frame.derived.length > 0) {
    return {
      level: "low",
      reason: `rests on a derived channel (${frame.derived.join(", ")}), which never proves slip`,
      raise: "record the channel itself",
    };
  }
  if (frame.rateHz < needsRateHz) {
    return {
      level: "low",
      reason: `${frame.rateHz.toFixed(0)} readings a second, ${needsRateHz} are needed`,
      raise: "log fewer channels to get a higher rate",
    };
  }
  if (times >= 3 || seconds >= 6)
    return { level: "high", reason: `seen ${times} times, ${seconds.toFixed(0)} s in all`, raise: undefined };
  return {
    level: "medium",
    reason: `seen ${times === 1 ? "once" : `${times} times`}, ${seconds.toFixed(1)} s in all`,
    raise: "repeat the drive in the same gear, load and temperature",
  };
}

/** What has no moment of its own. */
export const wholeDrive = (frame: Frame, gears: readonly string[] = []) => ({
  startS: 0,
  endS: frame.timeS.at(-1) ?? 0,
  occurrences: [],
  conditions: { gears },
});

/** A fault of the drive as a whole; its id is its kind unless it has one of its own. */
export const overall = (
  frame: Frame,
  kind: FindingKind,
  own: Pick<Finding, "title" | "measures" | "limit" | "confidence"> & Partial<Pick<Finding, "id" | "subject">>,
): Finding => ({ id: kind, kind, subject: {}, severity: "fault", ...wholeDrive(frame), ...own });
