import { elementsIn, type Unit } from "../../unit/index.ts";
import { type Finding, wholeDrive } from "../finding.ts";
import type { Add, Measure } from "../measure.ts";
import type { Frame } from "../signal/frame.ts";
import { median } from "../signal/stats.ts";
import { type AdaptationValue, readAdaptations } from "./adaptations.ts";

const NEAR_LIMIT = 0.9;
/** Of the way to its limit; less is the spread of sound units. */
const LEARNED_SHARE = 0.3;
/**
 * What all learned values of a vehicle have in common, as far as this share of the way, is how it was built and filled: of
 * that no element is to blame. A learning that is out of place goes beyond it.
 */
const BUILT_SHARE = 0.45;
const LEAST_VALUES = 3;
/** A vehicle whose other values are spread wide was built so: one stands out by this many times their median. */
const STANDS_OUT = 2.5;

/** Way from the new value to its limit, −1 … 1, beyond what the vehicle's values have in common. */
export function learnedBeyond(values: readonly Pick<AdaptationValue, "last" | "newValue" | "used">[]): number[] {
  const signed = values.map((v) => Math.sign(v.last - v.newValue) * v.used);
  const common = signed.length < LEAST_VALUES ? 0 : Math.max(-BUILT_SHARE, Math.min(BUILT_SHARE, median(signed)));
  return signed.map((s) => s - common);
}

/** Which way each value has gone of its own: far, and far beside the vehicle's others. */
export function learnedOutcomes(values: Parameters<typeof learnedBeyond>[0]): ("usual" | "high" | "low")[] {
  const beyond = learnedBeyond(values);
  return beyond.map((own, i) => {
    const others = beyond.filter((_, k) => k !== i).map(Math.abs);
    const spread = values.length < LEAST_VALUES ? 0 : median(others);
    if (Math.abs(own) < Math.max(LEARNED_SHARE, STANDS_OUT * spread)) return "usual";
    return own > 0 ? "high" : "low";
  });
}

export const adaptations: Measure<"adaptations"> = {
  id: "adaptations",
  measure: ({ recording, unit }) => readAdaptations(recording, unit),
  findings: (measured, { frame }) => adaptationFindings(frame, measured.adaptations),
  compares: {
    adaptation: {
      by: "state",
      measure: "of the way to its limit",
      quantity: "percent",
      limit: () => 90,
      rateHz: 0,
      leastS: 0,
      label: "learned value",
      state: ({ adaptations: list }, f) => {
        const found = list.find((v) => `adaptation:${v.id}` === f.id);
        return found && { value: found.used * 100, seconds: 0 };
      },
    },
  },
  /**
   * How far an element's own learned value has gone from that of a new unit. One of an element that no upshift applies is
   * hardly ever taught anything: that it is usual says nothing.
   */
  evidence(unit, analysis, add) {
    learnedEvidence(unit, analysis.adaptations, add);
  },
};

/** The same of values that were read by themselves. */
export function learnedEvidence(
  unit: Unit,
  values: readonly Pick<AdaptationValue, "id" | "name" | "component" | "last" | "newValue" | "used">[],
  add: Add,
): void {
  const applied = unit.gears.filter((g) => g.ratio > 0).map((g) => elementsIn(unit, g.name));
  const comesOn = new Set(applied.slice(1).flatMap((to, i) => to.filter((e) => !applied[i]?.includes(e))));
  const outcomes = learnedOutcomes(values);
  for (const [i, a] of values.entries()) {
    const outcome = outcomes[i] as (typeof outcomes)[number];
    if (outcome === "usual" && unit.kind === "planetary" && !comesOn.has(a.component)) continue;
    add(
      "adaptation",
      a.id,
      { component: a.component },
      outcome,
      `${a.name} ${outcome === "usual" ? "as usual" : `learned ${outcome}`}`,
      outcome !== "usual",
    );
  }
}

function adaptationFindings(frame: Frame, values: readonly AdaptationValue[]): Finding[] {
  return values
    .filter((v) => v.used >= NEAR_LIMIT)
    .map(
      (v): Finding => ({
        id: `adaptation:${v.id}`,
        kind: "adaptation",
        title: `${v.name} is ${v.used >= 1 ? "at" : "near"} its limit`,
        subject: { component: v.component },
        severity: v.used >= 1 ? "fault" : "notice",
        ...wholeDrive(frame),
        measures: [
          { name: `learned, ${v.unit}`, value: v.last, quantity: "none" },
          { name: "of the way to the limit", value: v.used * 100, quantity: "percent" },
        ],
        limit: {
          value: v.last >= (v.limits[0] + v.limits[1]) / 2 ? v.limits[1] : v.limits[0],
          quantity: "none",
          source: "unit file",
        },
        confidence: { level: "high", reason: "read from the controller", raise: undefined },
      }),
    );
}
