import { ENGAGEMENT } from "../fasteners/index.ts";
import { oddsOf, type Uncertain } from "../measure/index.ts";
import type { Converter } from "../unit/index.ts";

/** A length of the stack-up: added where it makes room between pads and flexplate, taken off where it takes it. */
export interface FitPart {
  readonly id: string;
  readonly name: string;
  readonly sign: 1 | -1;
  readonly mm: number;
  /** half-width that is not left: a tolerance, or twice the standard uncertainty of a measure */
  readonly plusMinusMm: number;
  /** from the unit file, not measured */
  readonly fromFile: boolean;
}

/** Sum of a stack-up with its band by worst case and by root-sum-square. */
export interface Sum {
  readonly mm: number;
  readonly worstMm: number;
  readonly rssMm: number;
}

/**
 * Adds a stack-up up. Worst case: all lie at their ends at once, Σt. Root-sum-square: they scatter by themselves, √Σt²; as each
 * t stands for two standard deviations, so does the sum.
 */
export const stackUp = (parts: readonly Pick<FitPart, "sign" | "mm" | "plusMinusMm">[]): Sum => ({
  mm: parts.reduce((s, p) => s + p.sign * p.mm, 0),
  worstMm: parts.reduce((s, p) => s + p.plusMinusMm, 0),
  rssMm: Math.hypot(...parts.map((p) => p.plusMinusMm)),
});

/** What was measured of a converter fit; whatever is left out is taken from the unit file. All in mm. */
export interface FitMeasured {
  /** unit side: from the face of the bell to the pads, converter home */
  readonly homeMm?: Uncertain | undefined;
  /** engine side: from the face of the bell to the flexplate’s pads */
  readonly flexplateMm?: Uncertain | undefined;
  /** between engine and bell */
  readonly adapterMm?: Uncertain | undefined;
  readonly gasketMm?: Uncertain | undefined;
  /** between flexplate and pads */
  readonly spacerMm?: Uncertain | undefined;
  /** between crankshaft and flexplate */
  readonly crankSpacerMm?: Uncertain | undefined;
  readonly pilotLengthMm?: Uncertain | undefined;
  readonly pilotRoomMm?: Uncertain | undefined;
  readonly pilotDiameterMm?: Uncertain | undefined;
  readonly pilotBoreMm?: Uncertain | undefined;
  readonly pumpEngagedMm?: Uncertain | undefined;
  readonly boltCircleMm?: Uncertain | undefined;
  readonly boltLengthMm?: Uncertain | undefined;
  readonly flexplateThicknessMm?: Uncertain | undefined;
}

export type FitState = "fits" | "close" | "does-not";

export interface FitLine {
  readonly id: "pull-up" | "pump" | "pilot-length" | "pilot-engaged" | "pilot-diameter" | "bolt-circle" | "bolt-length";
  readonly state: FitState;
  readonly sum: Sum;
  readonly windowMm: readonly [number | undefined, number | undefined];
  /** chance that it lies in its window */
  readonly inside: number;
  /** what it comes to, and what to do, as one would say it */
  readonly text: string;
}

export interface ConverterFitted {
  readonly parts: readonly FitPart[];
  readonly lines: readonly FitLine[];
  readonly fits: FitState;
}

/** A bolt circle may be off by so much before bolts go in by force. */
const CIRCLE_MM = 0.3;
const SURE = 0.8;

const mid = ([a, b]: readonly [number, number]): Uncertain => ({ value: (a + b) / 2, uncertainty: (b - a) / 4 });
const mm1 = (x: number) => `${Math.abs(x).toFixed(1)} mm`;

/**
 * Does this converter go between this engine and this unit? Pull-up = home depth + adapter + gasket − flexplate depth −
 * crankshaft spacer − spacer: how far the converter comes forward to the flexplate once the bell is on.
 * @param boltDiameterMm - of the converter bolts, for their grip
 * @throws RangeError when the unit file lacks what the fit is held against
 */
export function fitConverter(converter: Converter, m: FitMeasured, boltDiameterMm?: number): ConverterFitted {
  const { fit, homeDepthMm, pullUpMm } = converter;
  if (!fit || !homeDepthMm || !pullUpMm)
    throw new RangeError("the unit file does not say how the converter sits: add its fit in the unit’s editor");
  const part = (
    id: string,
    name: string,
    sign: 1 | -1,
    measured: Uncertain | undefined,
    file?: readonly [number, number],
  ): FitPart[] => {
    const u = measured ?? (file && mid(file));
    return u ? [{ id, name, sign, mm: u.value, plusMinusMm: 2 * u.uncertainty, fromFile: !measured }] : [];
  };
  const parts = [
    ...part("home", "Bell face to pads, converter home", 1, m.homeMm, homeDepthMm),
    ...part("adapter", "Adapter between engine and bell", 1, m.adapterMm),
    ...part("gasket", "Gasket", 1, m.gasketMm),
    ...part("flexplate", "Bell face to flexplate", -1, m.flexplateMm, fit.flexplateMm),
    ...part("crank-spacer", "Spacer behind the flexplate", -1, m.crankSpacerMm),
    ...part("spacer", "Spacer on the pads", -1, m.spacerMm),
  ];
  const pull = stackUp(parts);
  const line = (
    id: FitLine["id"],
    sum: Sum,
    windowMm: FitLine["windowMm"],
    say: (state: FitState) => string,
  ): FitLine => {
    const [from, to] = windowMm;
    const { inside } = oddsOf(sum.mm, sum.rssMm / 2, { from, to });
    const state: FitState = inside >= SURE ? "fits" : inside < 1 - SURE ? "does-not" : "close";
    return { id, state, sum, windowMm, inside, text: say(state) };
  };
  const [least, most] = pullUpMm;
  const aim = (least + most) / 2;
  const spacer = m.spacerMm ?? m.crankSpacerMm;
  const lines: FitLine[] = [
    line("pull-up", pull, pullUpMm, () => {
      if (pull.mm < 0)
        return `Bottoms out by ${mm1(pull.mm)}: ${
          spacer
            ? `shorten the spacer by ${mm1(aim - pull.mm)}`
            : `${mm1(aim - pull.mm)} more room is needed between engine and bell`
        }, do not pull it in with the bolts.`;
      if (pull.mm < least)
        return `Comes forward ${mm1(pull.mm)}, ${mm1(least - pull.mm)} too little: ${
          spacer ? `take ${mm1(aim - pull.mm)} off the spacer` : `${mm1(aim - pull.mm)} more room is needed`
        }.`;
      if (pull.mm > most)
        return `Comes forward ${mm1(pull.mm)}, ${mm1(pull.mm - most)} too much: a spacer of ${mm1(pull.mm - aim)} on the pads brings it to the middle.`;
      return `Comes forward ${mm1(pull.mm)}, as it should.`;
    }),
  ];
  // what is pulled forward leaves the pump
  const engaged = m.pumpEngagedMm ?? mid(fit.pumpEngagedMm);
  const left = stackUp([
    { sign: 1, mm: engaged.value, plusMinusMm: 2 * engaged.uncertainty },
    { sign: -1, mm: Math.max(0, pull.mm), plusMinusMm: pull.rssMm },
  ]);
  lines.push(
    line("pump", left, [fit.pumpEngagedLeastMm, undefined], (state) =>
      state === "fits"
        ? `${mm1(left.mm)} of the hub stay in the pump.`
        : left.mm < fit.pumpEngagedLeastMm
          ? `Only ${mm1(left.mm)} of the hub stay in the pump, ${fit.pumpEngagedLeastMm} mm are needed: the lugs would break it. A spacer on the pads keeps the converter back.`
          : `${mm1(left.mm)} of the hub stay in the pump, ${fit.pumpEngagedLeastMm} mm are needed: too close to call.`,
    ),
  );
  const length = m.pilotLengthMm ?? mid(fit.pilotLengthMm);
  const room = m.pilotRoomMm ?? mid(fit.pilotRoomMm);
  // a spacer on the pads keeps the pilot out of the crankshaft, one behind the flexplate makes its bore deeper
  const spare = stackUp([
    { sign: 1, mm: room.value, plusMinusMm: 2 * room.uncertainty },
    { sign: -1, mm: length.value, plusMinusMm: 2 * length.uncertainty },
    ...[m.spacerMm, m.crankSpacerMm].flatMap((s) =>
      s ? [{ sign: 1 as const, mm: s.value, plusMinusMm: 2 * s.uncertainty }] : [],
    ),
  ]);
  lines.push(
    line("pilot-length", spare, [0.5, undefined], () =>
      spare.mm < 0
        ? `The step of the pilot lands ${mm1(spare.mm)} before the pads do: machine the step, never bolt it down on it.`
        : `The pilot goes in with ${mm1(spare.mm)} to spare before its step lands.`,
    ),
  );
  const engagedPilot = stackUp([
    { sign: 1, mm: length.value, plusMinusMm: 2 * length.uncertainty },
    ...[m.spacerMm, m.crankSpacerMm].flatMap((s) =>
      s ? [{ sign: -1 as const, mm: s.value, plusMinusMm: 2 * s.uncertainty }] : [],
    ),
  ]);
  lines.push(
    line("pilot-engaged", engagedPilot, [PILOT_LEAST_MM, undefined], () =>
      engagedPilot.mm < PILOT_LEAST_MM
        ? `Only ${mm1(Math.max(0, engagedPilot.mm))} of the pilot sit in the crankshaft, ${PILOT_LEAST_MM} mm are needed: a longer pilot, or the spacer bored to guide it.`
        : `${mm1(engagedPilot.mm)} of the pilot sit in the crankshaft.`,
    ),
  );
  const bore = m.pilotBoreMm ?? mid(fit.pilotBoreMm);
  const pilot = m.pilotDiameterMm ?? mid(fit.pilotDiameterMm);
  const play = stackUp([
    { sign: 1, mm: bore.value, plusMinusMm: 2 * bore.uncertainty },
    { sign: -1, mm: pilot.value, plusMinusMm: 2 * pilot.uncertainty },
  ]);
  lines.push(
    line("pilot-diameter", play, [0, PILOT_PLAY_MM], () =>
      play.mm < 0
        ? `The pilot is ${Math.abs(play.mm).toFixed(2)} mm larger than its bore: it does not go in.`
        : play.mm > PILOT_PLAY_MM
          ? `The pilot has ${play.mm.toFixed(2)} mm play in its bore: a sleeve, or it runs out of true.`
          : `The pilot has ${play.mm.toFixed(2)} mm play in its bore.`,
    ),
  );
  if (m.boltCircleMm) {
    const off = stackUp([
      { sign: 1, mm: m.boltCircleMm.value, plusMinusMm: 2 * m.boltCircleMm.uncertainty },
      { sign: -1, mm: fit.boltCircleMm, plusMinusMm: 0 },
    ]);
    lines.push(
      line("bolt-circle", off, [-CIRCLE_MM, CIRCLE_MM], (state) =>
        state === "fits"
          ? `Bolt circle ${m.boltCircleMm?.value.toFixed(1)} mm, as the flexplate has.`
          : `Bolt circle ${m.boltCircleMm?.value.toFixed(1)} mm, the flexplate has ${fit.boltCircleMm} mm: another flexplate or an adapter plate, no filed holes.`,
      ),
    );
  }
  if (m.boltLengthMm && boltDiameterMm) {
    const plate = m.flexplateThicknessMm ?? { value: FLEXPLATE_MM, uncertainty: 0.1 };
    const under = m.spacerMm ?? { value: 0, uncertainty: 0 };
    const grip = stackUp([
      { sign: 1, mm: m.boltLengthMm.value, plusMinusMm: 2 * m.boltLengthMm.uncertainty },
      { sign: -1, mm: plate.value, plusMinusMm: 2 * plate.uncertainty },
      { sign: -1, mm: under.value, plusMinusMm: 2 * under.uncertainty },
    ]);
    lines.push(
      line("bolt-length", grip, [ENGAGEMENT.steel * boltDiameterMm, fit.padThreadMm], () =>
        grip.mm < ENGAGEMENT.steel * boltDiameterMm
          ? `The bolts grip ${mm1(grip.mm)} in the pads, ${(ENGAGEMENT.steel * boltDiameterMm).toFixed(1)} mm are needed: longer ones.`
          : grip.mm > fit.padThreadMm
            ? `The bolts reach ${mm1(grip.mm)} into threads ${fit.padThreadMm} mm deep: they would dent the converter. Shorter ones.`
            : `The bolts grip ${mm1(grip.mm)} in the pads.`,
      ),
    );
  }
  const states = lines.map((l) => l.state);
  return {
    parts,
    lines,
    fits: states.includes("does-not") ? "does-not" : states.includes("close") ? "close" : "fits",
  };
}

/** Least that a pilot has to sit in its bore to carry the converter, mm. */
const PILOT_LEAST_MM = 6;
/** Most play of a pilot in its bore before the converter runs out of true, mm. */
const PILOT_PLAY_MM = 0.15;
/** Usual thickness of a flexplate, where it was not measured, mm. */
const FLEXPLATE_MM = 3;
