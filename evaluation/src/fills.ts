import { type Emptied, type FillDone, fillProblem, fillState } from "@gearsense/core/fluid";
import type { Unit } from "@gearsense/core/unit";
import { Filling, seededRandom } from "@gearsense/simulator";

export interface FillScore {
  readonly unitId: string;
  readonly measured: boolean;
  readonly dry: boolean;
  /** from full at the reference temperature, engine running, everything full */
  readonly offL: number;
  readonly inWindow: boolean;
  /** s for which the pump drew air */
  readonly starvedS: number;
  readonly deeds: number;
  readonly finished: boolean;
  readonly done: readonly FillDone[];
}

/** More deeds than this are no fill that somebody would finish. */
const MOST = 60;
const THERMOMETER_C = 2;

/**
 * One vehicle drained and filled again by somebody who does as the fill asks, with a thermometer and a measuring can that are a
 * little off, spills what is not counted, and does not always wait for the tube as long as asked.
 * @param measured - what came out was measured
 */
export function drawFill(unit: Unit, seed: number, measured: boolean): FillScore {
  const random = seededRandom(seed * 7919 + 17);
  const off = (most: number) => (2 * random() - 1) * most;
  const vehicle = new Filling(unit, seed, 30 + 30 * random());
  const { method } = unit.fluid.level;
  const kind = random();
  const dry = kind > 0.88;
  const linesOpened = !dry && kind > 0.6 && (unit.fluid.coolerL ?? 0) > 0;
  const converterDrained = !dry && kind > 0.78 && unit.converter !== undefined;
  let drainedL = vehicle.drain();
  const drainedC = vehicle.fluidC + off(THERMOMETER_C);
  if (linesOpened) vehicle.emptyLines();
  if (converterDrained) {
    const share =
      unit.converter?.drainedL && unit.fluid.converterL ? unit.converter.drainedL / unit.fluid.converterL : 0.6;
    vehicle.emptyConverter(share * (1 + off(0.1)));
  }
  if (dry) vehicle.dryUnit();
  const prefilledL =
    (dry || converterDrained) && random() < 0.7 ? vehicle.prefill(1 + 0.5 * random()) * (1 + off(0.03)) : 0;
  vehicle.wait(60);
  // what fell beside the can is not in it
  drainedL = drainedL * (1 + off(0.03)) - 0.1 * random();
  const emptied: Emptied = {
    drainedL: measured && !dry ? drainedL : null,
    drainedC: measured ? drainedC : null,
    spiltL: 0,
    linesOpened,
    converterDrained,
    dry,
    prefilledL,
  };
  const done: FillDone[] = [];
  const tell = (d: FillDone) => {
    const problem = fillProblem(unit, fillState(unit, emptied, done), d);
    if (problem) throw new Error(`the fill asked for what it does not take: ${problem}`);
    done.push(d);
  };
  const thermometer = () => vehicle.fluidC + off(THERMOMETER_C);
  let finished = false;
  while (done.length < MOST) {
    const { ask } = fillState(unit, emptied, done);
    if (ask.deed === "done" || ask.deed === "mend") {
      finished = ask.deed === "done";
      break;
    }
    if (ask.engine === "off") vehicle.stop();
    else if (!vehicle.running && ask.deed !== "started") vehicle.start(6);
    switch (ask.deed) {
      case "poured": {
        const plugOut = method !== "dipstick";
        // a litre at a time: it takes its time, and at a plug it shows when it is enough
        let inL = 0;
        let ranOver = false;
        while (inL < (ask.litres ?? 0) - 0.01 && !ranOver) {
          const one = Math.min(0.5, (ask.litres ?? 0) - inL);
          const r = vehicle.pour(one, plugOut);
          inL += one;
          ranOver = r.ranOver;
          vehicle.wait(0.5);
        }
        tell({
          deed: "poured",
          litres: Math.max(0, inL * (1 + off(0.02))),
          fluidC: null,
          saw: ranOver ? "ran-over" : "all-in",
        });
        break;
      }
      case "let-out":
        vehicle.letOut(ask.litres ?? 0);
        tell({ deed: "let-out", litres: (ask.litres ?? 0) * (1 + off(0.05)), fluidC: null, saw: "" });
        break;
      case "started":
        tell({ deed: "started", litres: null, fluidC: null, saw: vehicle.start(ask.seconds ?? 36) });
        if (ask.seconds !== undefined) vehicle.stop();
        break;
      case "temperature": {
        const [low, high] = ask.aimC ?? unit.fluid.level.windowC;
        for (let i = 0; i < 600 && !(vehicle.fluidC >= low + 1 && vehicle.fluidC <= high - 1); i++) {
          // a sight hole is warmed by a drive round the yard
          if (method === "sight-hole" && vehicle.fluidC < low) vehicle.fluidC += 1;
          vehicle.wait(1);
        }
        tell({ deed: "temperature", litres: null, fluidC: thermometer(), saw: "" });
        break;
      }
      case "overflow":
        tell({ deed: "overflow", litres: null, fluidC: thermometer(), saw: vehicle.overflow() });
        break;
      case "sight":
        tell({
          deed: "sight",
          litres: null,
          fluidC: thermometer(),
          saw: vehicle.overflow() === "nothing" ? "below" : "at-the-edge",
        });
        break;
      case "stick":
        vehicle.wait(6 + 6 * random());
        tell({ deed: "stick", litres: vehicle.stick(), fluidC: thermometer(), saw: "" });
        break;
      case "drove":
        vehicle.drive();
        tell({ deed: "drove", litres: null, fluidC: thermometer(), saw: "" });
        break;
      case "leaks":
        tell({ deed: "leaks", litres: null, fluidC: null, saw: "dry" });
        break;
    }
  }
  const { offL, starvedS } = vehicle;
  return {
    unitId: unit.id,
    measured,
    dry,
    offL,
    inWindow: Math.abs(offL) <= unit.fluid.level.toleranceL,
    starvedS,
    deeds: done.length,
    finished,
    done,
  };
}
