// Solving gear trains: the ten-speed unit with every combination of its elements, against the six-speed in the
// same run. usage: npm run bench:train   The aim is 50 ms or less for the ten-speed.
import { readFileSync } from "node:fs";
import { classifyCombinations, gearStates, jointsOf, type Unit } from "@gearsense/core/unit";

const load = (id: string) =>
  JSON.parse(readFileSync(new URL(`../library/units/${id}.unit.json`, import.meta.url), "utf8")) as Unit;
const ROUNDS = 31;

function medianMs(unit: Unit): { ms: number; combinations: number } {
  const { gearTrain } = unit;
  if (!gearTrain) throw new Error(`${unit.name} has no gear train`);
  const times: number[] = [];
  let combinations = 0;
  for (let i = 0; i < ROUNDS; i++) {
    const start = performance.now();
    gearStates(unit);
    const joints = jointsOf(unit);
    const sizes = joints.map((_, k) => k + 1);
    combinations = classifyCombinations(gearTrain, joints, sizes).length;
    times.push(performance.now() - start);
  }
  return { ms: times.sort((a, b) => a - b)[ROUNDS >> 1] as number, combinations };
}

const six = medianMs(load("brae-p6"));
const ten = medianMs(load("crag-t10"));
console.log(
  `six-speed, every gear and ${six.combinations} combinations   ${six.ms.toFixed(2)} ms (median of ${ROUNDS})`,
);
console.log(`ten-speed, every gear and ${ten.combinations} combinations   ${ten.ms.toFixed(2)} ms (aim: 50 or less)`);
console.log(`ratio ${(ten.ms / six.ms).toFixed(2)}`);
