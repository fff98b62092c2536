import { seededRandom } from "@gearsense/core/chance";
import { analyseDrive } from "@gearsense/core/drive";
import { buildRecording, channelsToRecord, openLog, proposeMapping } from "@gearsense/core/log";
import {
  believe,
  fromLogs,
  type Knowledge,
  PROPOSED_CHANNELS,
  proposeChannels,
  SuspectModel,
  siftEvidence,
} from "@gearsense/core/suspect";
import type { Unit } from "@gearsense/core/unit";
import {
  exportLog,
  learnedChannels,
  PLAIN_STYLE,
  pollingRateHz,
  simulateDrive,
  usualChannels,
} from "@gearsense/simulator";
import { learnedBefore } from "./drive-vehicle.ts";
import type { JobCase } from "./jobs.ts";
import { codesRead, firstLook } from "./workshop.ts";
import { worldOf } from "./world.ts";

export const CHANNEL_SETS = ["proposed", "fixed", "all"] as const;
export type ChannelSet = (typeof CHANNEL_SETS)[number];

/** One vehicle recorded with each set of channels: is the fault that it has the first suspect afterwards? */
export interface ChannelScore {
  readonly unitId: string;
  readonly fault: string;
  readonly first: Readonly<Record<ChannelSet, boolean>>;
  readonly channels: Readonly<Record<ChannelSet, readonly string[]>>;
}

const models = new Map<string, SuspectModel>();

/** The same drives of one vehicle, read with other channels at the rate that so many of them allow. */
export function recordWithSets(
  spec: JobCase,
  unit: Unit,
  library: readonly Unit[],
  knowledge: Knowledge,
  drives: number,
): ChannelScore {
  const model = models.get(unit.id) ?? new SuspectModel(unit, knowledge);
  models.set(unit.id, model);
  const [fault = ""] = spec.faultIds;
  const vehicle = { unit, faultIds: spec.faultIds, codes: [], slipGears: [] };
  const known = firstLook(vehicle, model, seededRandom(spec.seed + 99), worldOf(spec.world).errors);
  const before = believe(model, siftEvidence(model, known).used).marginals();
  const all = [...usualChannels(unit), ...learnedChannels(unit)];
  const there = (list: readonly { readonly channel: string }[]) =>
    list.map((c) => c.channel).filter((c) => all.includes(c));
  const channels: Record<ChannelSet, readonly string[]> = {
    proposed: there(proposeChannels(model, before)),
    fixed: there(channelsToRecord(unit, [])).slice(0, PROPOSED_CHANNELS),
    all,
  };
  const adaptations = learnedBefore(spec, unit);
  const first = Object.fromEntries(
    CHANNEL_SETS.map((set) => {
      const logs = spec.drives.slice(0, drives).map((d, i) => {
        const { columns, truth } = simulateDrive({
          unit,
          seed: spec.seed + i,
          vehicleSeed: spec.vehicleSeed,
          world: spec.world,
          profile: d.phases,
          startFluidC: d.startFluidC,
          durationS: d.durationS,
          rateHz: pollingRateHz(channels[set].length),
          faults: spec.faults,
          channels: channels[set],
          adaptations,
        });
        const { table } = openLog(exportLog(columns, PLAIN_STYLE), {});
        const analysis = analyseDrive(buildRecording(table, proposeMapping(table, unit)), unit, library);
        return { logId: `log-${i}`, entryId: `log-${i}`, analysis, codes: truth.codes.map((c) => c.code) };
      });
      const seen = [...known, ...fromLogs(unit, logs), ...codesRead(unit, [...new Set(logs.flatMap((l) => l.codes))])];
      const p = believe(model, siftEvidence(model, seen).used).marginals();
      const leader = p.indexOf(Math.max(...p));
      return [set, model.faults[leader]?.id === fault];
    }),
  ) as Record<ChannelSet, boolean>;
  return { unitId: unit.id, fault, first, channels };
}
