import { type Analysis, analyseDrive, type Comparison, compareDrives } from "@gearsense/core/drive";
import { buildRecording, InputError, openLog, proposeMapping, type Recording } from "@gearsense/core/log";
import type { Unit } from "@gearsense/core/unit";
import {
  exportLog,
  PLAIN_STYLE,
  PROFILES,
  type ProfileName,
  type SimulatedFault,
  simulateDrive,
} from "@gearsense/simulator";

/** A vehicle with a fault, driven on every road, and what the proof makes of drives in which nothing was repaired. */
export interface ProofCase {
  readonly unit: Unit;
  readonly seed: number;
  readonly fault: SimulatedFault;
  readonly durationS: number;
}

export interface ProofScore {
  readonly fault: string;
  /** faults found before, compared with another drive of the same vehicle, unrepaired */
  readonly compared: number;
  readonly exercised: number;
  /** called gone all the same */
  readonly falselyGone: readonly string[];
  /** with nothing wrong any more, driven as asked: faults found before, and of them those told gone */
  readonly repaired: number;
  readonly recognised: number;
  readonly notRecognised: readonly string[];
}

/** Faults that a drive shows, one of each kind that the findings tell apart. */
const FAULTS: readonly (readonly [unitId: string, kind: string, component: string | undefined, severity: number])[] = [
  ["brae-p6", "element-worn", "TC", 0.7],
  ["fell-e8", "converter-glazed", undefined, 0.7],
  ["brae-p6", "misfire", undefined, 0.7],
  ["brae-p6", "converter-worn", undefined, 0.7],
  ["tarn-f4", "pump-worn", undefined, 0.8],
  ["crag-t10", "converter-imbalance", undefined, 0.8],
  ["brae-p6", "fluid-low", undefined, 0.8],
  ["brae-p6", "solenoid-stuck-off", "sol_HC", 1],
  ["brae-p6", "solenoid-open", "sol_TC", 1],
  ["brae-p6", "converter-solenoid-stuck-on", "sol_TCC", 1],
  ["brae-p6", "valve-sticks", "TC", 0.7],
  ["brae-p6", "element-releases-late", "HC", 0.8],
  ["machair-d6", "dual-clutch-worn", "K1", 0.7],
  ["machair-d6", "launch-judder", "K1", 0.8],
  ["machair-d6", "clutch-pressure-low", "K2", 0.8],
  ["brae-p6", "sensor-drops-out", "sen_turbine", 0.7],
  ["brae-p6", "sensor-noisy", "sen_output", 0.8],
  ["brae-p6", "mount-torn", undefined, 0.8],
  ["fell-e8", "wheel-imbalance", undefined, 0.8],
  ["machair-d6", "misfire", undefined, 0.8],
  ["brae-p6", "element-leak", "TC", 0.7],
  ["fell-e8", "cooler-blocked", undefined, 0.9],
];
const DURATION_S = 300;

/** The vehicles that the proof is put to the test with. */
export function proofCases(units: readonly Unit[], seed: number): ProofCase[] {
  return FAULTS.map(([unitId, kind, component, severity], i) => ({
    unit: units.find((u) => u.id === unitId) as Unit,
    seed: 1000 * (seed + i),
    fault: { kind, ...(component ? { component } : {}), severity } as SimulatedFault,
    durationS: DURATION_S,
  }));
}

const RATE_HZ = 20;
const THINNED = [1, 2, 4] as const;
/** Drives on the same road that a patient driver makes after the repair. */
const AS_ASKED = 4;

function record(spec: ProofCase, profile: ProfileName, seed: number, faults: readonly SimulatedFault[]): Recording {
  const { columns } = simulateDrive({
    unit: spec.unit,
    seed,
    vehicleSeed: spec.seed,
    durationS: spec.durationS,
    profile,
    rateHz: RATE_HZ,
    faults: [...faults],
  });
  const { table } = openLog(exportLog(columns, PLAIN_STYLE));
  return buildRecording(table, proposeMapping(table, spec.unit));
}

/** Every so many readings of each channel. */
function thinned(recording: Recording, by: number): Recording {
  const bases = new Map<Float64Array, Float64Array>();
  const channels = new Map(
    [...recording.channels].map(([id, c]) => {
      const timeS = bases.get(c.timeS) ?? c.timeS.filter((_, i) => i % by === 0);
      bases.set(c.timeS, timeS);
      return [id, { ...c, timeS, values: c.values.filter((_, i) => i % by === 0), rateHz: c.rateHz / by }] as const;
    }),
  );
  return { ...recording, channels };
}

const without = (recording: Recording, id: string): Recording => ({
  ...recording,
  channels: new Map([...recording.channels].filter(([c]) => c !== id)),
});

function tryAnalyse(recording: Recording, unit: Unit): Analysis | undefined {
  try {
    return analyseDrive(recording, unit);
  } catch (error) {
    if (error instanceof InputError) return undefined;
    throw error;
  }
}

/** Drives a faulty vehicle on all roads and compares every drive with every other, at three rates and without each channel. */
export function scoreProofs(
  spec: ProofCase,
  profiles: readonly ProfileName[] = Object.keys(PROFILES) as ProfileName[],
): ProofScore {
  const { unit, seed, fault } = spec;
  const name = `${unit.id}, ${fault.kind}${fault.component ? `@${fault.component}` : ""}`;
  const falselyGone: string[] = [];
  let [compared, exercised, repaired, recognised] = [0, 0, 0, 0];
  const notRecognised: string[] = [];
  const faultsOf = (c: Comparison, before: Analysis) =>
    c.findings.filter((f) => before.findings.some((x) => x.id === f.findingId && x.severity === "fault"));
  const judge = (before: Analysis, after: Analysis | undefined, how: string) => {
    if (!after) return;
    for (const f of faultsOf(compareDrives([before], [after]), before)) {
      compared++;
      if (f.verdict !== "not exercised") exercised++;
      if (f.verdict === "gone") falselyGone.push(`${name}: ${f.findingId}, ${how}: ${f.reason}`);
    }
  };
  const befores = profiles.map((p, i) => tryAnalyse(record(spec, p, seed + i, [fault]), unit));
  profiles.forEach((road, j) => {
    const later = record(spec, road, seed + 100 + j, [fault]);
    const afters = THINNED.map((by) => tryAnalyse(thinned(later, by), unit));
    profiles.forEach((first, i) => {
      const before = befores[i];
      if (!before?.findings.some((f) => f.severity === "fault")) return;
      for (const [k, after] of afters.entries())
        judge(before, after, `${first} then ${road} at ${RATE_HZ / (THINNED[k] as number)} Hz`);
    });
    const before = befores[j];
    if (!before?.findings.some((f) => f.severity === "fault")) return;
    for (const id of later.channels.keys())
      judge(before, tryAnalyse(without(later, id), unit), `${road} without ${id}`);
    const sound = Array.from({ length: AS_ASKED }, (_, k) =>
      tryAnalyse(record(spec, road, seed + 200 + 10 * j + k, []), unit),
    );
    const driven = sound.filter((a) => a !== undefined);
    for (const f of faultsOf(compareDrives([before], driven), before)) {
      repaired++;
      if (f.verdict === "gone") recognised++;
      else notRecognised.push(`${name}: ${f.findingId} on ${road}: ${f.verdict}, ${f.reason}`);
    }
  });
  return { fault: name, compared, exercised, falselyGone, repaired, recognised, notRecognised };
}

const LISTED = 5;

/** What the proof was right about, in Markdown. */
export function proofsPage(scores: readonly ProofScore[], seed: number): string {
  const sum = (of: (s: ProofScore) => number) => scores.reduce((n, s) => n + of(s), 0);
  const falsely = sum((s) => s.falselyGone.length);
  const [compared, exercised] = [sum((s) => s.compared), sum((s) => s.exercised)];
  const [repaired, recognised] = [sum((s) => s.repaired), sum((s) => s.recognised)];
  const line = (s: ProofScore) =>
    `| ${s.fault} | ${s.compared} | ${s.exercised} | ${s.falselyGone.length} | ${s.repaired} | ${s.recognised} |`;
  return [
    "## The proof against vehicles that were not repaired",
    "",
    `\`./gearsense evaluate proofs --seed ${seed}\`: ${scores.length} faulty vehicles of our own simulator on every road, each drive against one on every other, at 20, 10 and 5 readings a second and without each channel; and against ${AS_ASKED} drives each of a vehicle that was repaired.`,
    "",
    `Called gone unrepaired: ${falsely} of ${exercised} that could be judged (${compared} compared); target at most 1 in 200. A real repair recognised: ${recognised} of ${repaired}; target at least 90 %.`,
    "",
    "| Fault | Compared | Could be judged | Falsely gone | Repaired | Recognised |",
    "|---|---|---|---|---|---|",
    ...scores.map(line),
    "",
    ...scores
      .flatMap((s) => [...s.falselyGone.slice(0, LISTED), ...s.notRecognised.slice(0, LISTED)])
      .map((x) => `- ${x}`),
    "",
  ].join("\n");
}
