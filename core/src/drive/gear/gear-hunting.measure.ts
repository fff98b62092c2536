import { drivenAsWarm } from "../comparer.ts";
import { confidence, type Finding } from "../finding.ts";
import { either, hasFinding, type Measure } from "../measure.ts";
import type { Frame } from "../signal/frame.ts";
import { findGearHunting, type GearHunting } from "./gear-hunting.ts";

const HUNTS_TIMES = 3;

export const gearHunting: Measure<"gearHunting"> = {
  id: "gearHunting",
  measure: ({ frame }) => findGearHunting(frame),
  findings: (measured, { frame }) => gearHuntingFindings(frame, measured.gearHunting),
  compares: {
    "gear-hunting": {
      by: "event",
      rateHz: 2,
      driving: "a steady foot at the speeds of these gears",
      lacks: (a) => (a.reach.length === 0 ? "the pedal was not recorded" : undefined),
      events: (a) => a.gearHunting.length,
      exposureS: (a, f) => drivenAsWarm(a, f, { gears: (g) => f.conditions.gears.includes(g) }),
    },
  },
  evidence(_unit, analysis, add) {
    if (analysis.reach.length > 0)
      either(
        add,
        "gear-hunting",
        hasFinding(analysis, "gear-hunting"),
        ["hunts", "Hunts between gears with the foot still"],
        ["calm", "Keeps its gears"],
      );
  },
};

function gearHuntingFindings(frame: Frame, hunts: readonly GearHunting[]): Finding[] {
  if (hunts.length < HUNTS_TIMES) return [];
  const gears = [...new Set(hunts.map((h) => h.between))];
  return [
    {
      id: "gear-hunting",
      kind: "gear-hunting",
      title: `Hunts between gears ${gears.join(", ")} with the foot still`,
      subject: {},
      severity: "fault",
      startS: hunts[0]?.startS ?? 0,
      endS: hunts.at(-1)?.endS ?? 0,
      occurrences: hunts.map((h) => ({ startS: h.startS, endS: h.endS, value: h.endS - h.startS })),
      conditions: { gears: [...new Set(gears.flatMap((g) => g.split("-")))] },
      measures: [{ name: "changes taken back", value: hunts.length, quantity: "count" }],
      limit: { value: HUNTS_TIMES, quantity: "count", source: "typical" },
      confidence: confidence(frame, hunts.length, hunts.length, 1),
    },
  ];
}
