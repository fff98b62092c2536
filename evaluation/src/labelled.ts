import { type Analysis, analyseDrive, gearObservations } from "@gearsense/core/drive";
import { buildRecording, InputError, openLog, proposeMapping } from "@gearsense/core/log";
import { believe, fromLogs, type Knowledge, SuspectModel, siftEvidence } from "@gearsense/core/suspect";
import { readObservations, type Unit } from "@gearsense/core/unit";
import { placeOf } from "./places.ts";
import type { Counts } from "./score.ts";

/** What happened on a drive of which somebody knows it. Times are seconds on the clock of the log; docs/formats.md. */
export interface Labels {
  readonly healthy: boolean;
  readonly fault: { readonly kind: string; readonly components: readonly string[]; readonly places: readonly string[] };
  readonly observability: { readonly observable: boolean };
  readonly log: { readonly rateHz: number };
  readonly events: {
    readonly shifts: readonly { readonly from: string; readonly to: string; readonly commandS: number }[];
    readonly shudder: readonly LabelledSpan[];
    readonly slip: readonly (LabelledSpan & { readonly gear: string; readonly maxRpm: number })[];
    readonly dropouts: readonly (LabelledSpan & { readonly sensor: string })[];
    readonly limp: { readonly startS: number } | null;
  };
}

interface LabelledSpan {
  readonly startS: number;
  readonly endS: number;
}

export interface LabelledLog {
  readonly name: string;
  readonly unit: Unit;
  readonly labels: Labels;
  readonly bytes: Uint8Array;
}

/** One labelled log against what the analysis and the judgement say of it. A part that it does not put to the test is undefined. */
export interface LabelledScore {
  readonly name: string;
  readonly kind: string;
  readonly rateHz: number;
  readonly healthy: boolean;
  readonly observable: boolean;
  /** sentence of the refusal */
  readonly refused: string | undefined;
  readonly shifts: Counts;
  readonly shudder: { readonly real: boolean; readonly said: boolean } | undefined;
  readonly dropouts: Counts;
  readonly limp: { readonly real: boolean; readonly said: boolean };
  readonly slipRight: boolean | undefined;
  /** titles of the findings of severity "fault" */
  readonly faults: readonly string[];
  readonly placeRank: number;
  readonly leading: { readonly place: string; readonly p: number; readonly right: boolean };
}

/** From this rate on a shudder is asked for. */
const SHUDDER_RATE_HZ = 20;
const MATCH_S = 0.15;
const LEAST_READINGS = 3;
const CLEAR_SLIP_RPM = 100;
const CLEAR_SLIP_S = 0.8;
const OVERLAP_S = 0.3;

/** Analyses a labelled log from its bytes alone, judges it without anything else, and compares. */
export function scoreLabelled(
  { name, unit, labels, bytes }: LabelledLog,
  library: readonly Unit[],
  knowledge: Knowledge,
): LabelledScore {
  const base = {
    name,
    kind: labels.fault.kind,
    rateHz: labels.log.rateHz,
    healthy: labels.healthy,
    observable: labels.observability.observable,
  };
  try {
    const { table } = openLog(bytes);
    const recording = buildRecording(table, proposeMapping(table, unit));
    const analysis = analyseDrive(recording, unit, library);
    return {
      ...base,
      refused: undefined,
      shifts: scoreShifts(analysis, labels, recording.originS),
      shudder: scoreShudder(analysis, labels, unit),
      dropouts: scoreDropouts(analysis, labels, recording.originS, (id) => recording.channels.has(id), unit),
      limp: { real: labels.events.limp !== null, said: analysis.limp !== undefined },
      slipRight: slipRight(analysis, labels, unit),
      faults: analysis.findings.filter((f) => f.severity === "fault").map((f) => f.title),
      ...scorePlace(analysis, labels, unit, knowledge),
    };
  } catch (error) {
    if (!(error instanceof InputError)) throw error;
    const { shifts, dropouts, limp, slip } = labels.events;
    const missed = (n: number): Counts => ({ hit: 0, wrong: 0, missed: n });
    const shudders = shudderCounts(labels, unit) && { real: labels.events.shudder.length > 0, said: false };
    return {
      ...base,
      refused: error.message,
      shifts: missed(shifts.length),
      shudder: shudders || undefined,
      dropouts: missed(dropouts.length),
      limp: { real: limp !== null, said: false },
      slipRight: slip.length > 0 && labels.fault.components.length === 1 ? false : undefined,
      faults: [],
      placeRank: Number.POSITIVE_INFINITY,
      leading: { place: "", p: 0, right: false },
    };
  }
}

function scoreShifts({ shifts, rateHz }: Analysis, { events }: Labels, originS: number): Counts {
  const free = new Set(shifts);
  const within = MATCH_S + 1.5 / rateHz;
  let hit = 0;
  for (const t of events.shifts) {
    const off = (s: Analysis["shifts"][number]) => Math.abs(s.commandS - (t.commandS - originS));
    const [best] = [...free]
      .filter((s) => s.from === t.from && s.to === t.to && off(s) <= within)
      .sort((a, b) => off(a) - off(b));
    if (!best) continue;
    free.delete(best);
    hit++;
  }
  return { hit, wrong: free.size, missed: events.shifts.length - hit };
}

/** Is the log asked for a shudder, or for none? One that it cannot show counts neither way. */
const shudderCounts = ({ log, observability, events }: Labels, unit: Unit): boolean =>
  unit.kind === "planetary" &&
  log.rateHz >= SHUDDER_RATE_HZ &&
  (observability.observable || events.shudder.length === 0);

function scoreShudder({ findings }: Analysis, labels: Labels, unit: Unit): LabelledScore["shudder"] {
  if (!shudderCounts(labels, unit)) return undefined;
  return { real: labels.events.shudder.length > 0, said: findings.some((f) => f.kind === "shudder") };
}

function scoreDropouts(
  analysis: Analysis,
  { events, log }: Labels,
  originS: number,
  logged: (channel: string) => boolean,
  unit: Unit,
): Counts {
  const [counts, sensors] = [{ hit: 0, wrong: 0, missed: 0 }, unit.sensors.filter((s) => logged(s.channel))];
  for (const sensor of sensors) {
    const real = events.dropouts
      .filter((d) => d.sensor === sensor.id && (d.endS - d.startS) * log.rateHz >= LEAST_READINGS)
      .map((d) => ({ startS: d.startS - originS, endS: d.endS - originS }));
    const any = events.dropouts.filter((d) => d.sensor === sensor.id);
    const said = analysis.dropouts.filter((d) => d.sensor === sensor.id && d.samples >= LEAST_READINGS);
    const overlap = (a: LabelledSpan, b: LabelledSpan) =>
      a.startS < b.endS + OVERLAP_S && b.startS < a.endS + OVERLAP_S;
    for (const d of real) {
      if (said.some((s) => overlap(s, d))) counts.hit++;
      else counts.missed++;
    }
    // a shorter one that was found isn't a false alarm
    for (const s of said)
      if (!any.some((d) => overlap(s, { startS: d.startS - originS, endS: d.endS - originS }))) counts.wrong++;
  }
  return counts;
}

/** Slip of one element: do the gears that slip and hold lead to it? */
function slipRight(analysis: Analysis, { fault, events }: Labels, unit: Unit): boolean | undefined {
  const element = fault.components.length === 1 ? unit.elements.find((e) => e.id === fault.components[0]) : undefined;
  const clear = events.slip.some((s) => s.maxRpm > CLEAR_SLIP_RPM && s.endS - s.startS > CLEAR_SLIP_S);
  if (!element || !clear) return undefined;
  return readObservations(unit, gearObservations(analysis)).explanations.some(
    (e) => e.length === 1 && e[0] === element.id,
  );
}

function scorePlace(
  analysis: Analysis,
  { fault }: Labels,
  unit: Unit,
  knowledge: Knowledge,
): Pick<LabelledScore, "placeRank" | "leading"> {
  const model = new SuspectModel(unit, knowledge);
  const { used } = siftEvidence(model, fromLogs(unit, [{ entryId: "log", logId: "log", analysis }]));
  const placeAt = model.faults.map((f) => placeOf(unit, f));
  const places = believe(model, used).byGroup((i) => placeAt[i] as string);
  const right = new Set<string>();
  model.faults.forEach((f, i) => {
    const place = placeAt[i] as string;
    if ([place, f.classId, f.component].some((name) => fault.places.includes(name))) right.add(place);
  });
  const order = [...places].sort((a, b) => b[1] - a[1]);
  const [place, p] = order[0] as [string, number];
  const at = order.findIndex(([name]) => right.has(name));
  return { placeRank: at < 0 ? Number.POSITIVE_INFINITY : at + 1, leading: { place, p, right: right.has(place) } };
}
