import { between, type FaultKind } from "./kind.ts";

/**
 * What is wrong with a vehicle and with no part of its transmission: no suspect of the catalogue explains it. Not offered
 * to choose from; it puts the judgement to the test.
 */
export const OUTSIDE_KINDS: readonly FaultKind[] = [
  {
    id: "brake-binds",
    per: "unit",
    title: "A wheel brake binds",
    symptom: "sluggish, more load in every gear, coasts badly",
    apply: (h, _id, s) => {
      h.brakeDragN = between(s, 500, 1500);
    },
  },
  {
    id: "speed-reads-off",
    per: "unit",
    title: "Road speed reads too high",
    symptom: "road speed that fits no ratio",
    apply: (h, _id, s) => {
      h.kmhScale = 1 + between(s, 0.06, 0.14);
    },
  },
  {
    id: "engine-surges",
    per: "unit",
    title: "Engine surges",
    symptom: "its torque comes and goes once a second, in every gear",
    apply: (h, _id, s, c) => {
      h.engine.torqueScale = 1 - between(s, 0.2, 0.5) * (0.5 + 0.5 * Math.sin(2 * Math.PI * SURGE_HZ * c.timeS));
    },
  },
];

const SURGE_HZ = 0.9;
