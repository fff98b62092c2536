import type { BenchView, InstrumentsView } from "@gearsense/contract";
import { benchContradictions, causeOdds, causeSigns, loggedFactor } from "@gearsense/core/bench";
import { gearObservations } from "@gearsense/core/drive";
import { foldJob } from "@gearsense/core/job";
import type { Instrument } from "@gearsense/core/knowledge";
import { formatQuantity, type UnitSystem } from "@gearsense/core/quantity";
import {
  type BuildFileShape,
  type BuildInput,
  buildFile,
  buildRecord,
  type EarlierBuild,
  type Report,
} from "@gearsense/core/report";
import { readObservations } from "@gearsense/core/unit";
import type { ShopScope } from "../db/shop-scope.ts";
import { HttpError } from "../http/errors.ts";
import type { createJobService } from "../jobs/service.ts";
import type { Library } from "../library/load.ts";
import { provedBy } from "../logs/proved-by.ts";
import type { LogService } from "../logs/service.ts";
import { withOwn } from "./instruments.ts";
import { createBenchStore } from "./store.ts";

/** Earlier builds that stand beside a new one. */
const SHOWN = 3;

/** What stands on the bench of a job: causes, contradictions, earlier builds, the record. */
export function createBenchService(
  jobs: ReturnType<typeof createJobService>,
  logs: LogService,
  library: Library,
  now: () => Date,
) {
  const knowledge = library.knowledge.bench;
  return (scope: ShopScope) => {
    const store = createBenchStore(scope);
    const earlier = async (unitId: string, jobId: string): Promise<EarlierBuild[]> =>
      (await store.builds(unitId, jobId))
        .map(({ jobNumber, entries }) => ({ jobNumber, places: foldJob(entries).bench.map((e) => e.body) }))
        .filter((b) => b.places.length > 0)
        .slice(0, SHOWN);
    const causes = async (jobId: string, signal?: AbortSignal) => {
      const { unit } = await jobs(scope).record(jobId);
      const { state, logs: analysed } = await logs(scope).analysed(jobId, signal);
      const { before, after } = provedBy(state, analysed);
      const signs = causeSigns(unit, state, before);
      return { unit, state, before, after, signs, odds: causeOdds(knowledge, signs) };
    };
    const input = async (
      jobId: string,
      shopName: string,
      system: UnitSystem,
      signal?: AbortSignal,
    ): Promise<BuildInput> => {
      const job = await jobs(scope).record(jobId);
      const entries = await jobs(scope).entries(jobId);
      if (foldJob(entries).bench.length === 0)
        throw new HttpError(409, "nothing-built", "Nothing was measured on the bench of this job yet.");
      const { signs, odds } = await causes(jobId, signal);
      return {
        shopName,
        jobNumber: job.number,
        vehicle: { name: job.vehicle.name, plate: job.vehicle.plate },
        odometer: formatQuantity(job.odometerKm, "distance", system).text,
        unit: job.unit,
        entries,
        knowledge,
        causes: signs.length > 0 ? odds : [],
        earlier: await earlier(job.unit.id, jobId),
        system,
        standingCaution: library.knowledge.standingCaution,
      };
    };
    return {
      async view(jobId: string, signal?: AbortSignal): Promise<BenchView> {
        const { unit, state, before, after, signs, odds } = await causes(jobId, signal);
        const reading = readObservations(
          unit,
          before.flatMap((l) => gearObservations(l.analysis)),
        );
        const factorOf = (list: typeof before) =>
          (unit.converter &&
            loggedFactor(
              unit.converter,
              list.map((l) => l.analysis),
            )) ??
          null;
        return {
          signs,
          causes: odds,
          contradictions: benchContradictions(unit, state, reading),
          earlier: await earlier(unit.id, jobId),
          factor: { before: factorOf(before), after: factorOf(after) },
          curve: [...before, ...after].findLast((l) => l.analysis.torqueCurve)?.analysis.torqueCurve ?? null,
        };
      },
      async record(jobId: string, shopName: string, system: UnitSystem, signal?: AbortSignal): Promise<Report> {
        return buildRecord(await input(jobId, shopName, system, signal));
      },
      async file(jobId: string, shopName: string, signal?: AbortSignal): Promise<BuildFileShape> {
        return buildFile(await input(jobId, shopName, "metric", signal));
      },
      /** All instruments as the shop has them. */
      async instruments(): Promise<InstrumentsView> {
        const { instruments, seq } = await store.instruments();
        return { instruments: withOwn(library.knowledge.instruments, instruments), seq };
      },
      /** Keeps what differs from the library. */
      async saveInstruments(list: readonly Instrument[], baseSeq: number, author: string): Promise<InstrumentsView> {
        const same = (a: Instrument, b: Instrument | undefined) =>
          b !== undefined && a.name === b.name && a.percent === b.percent && a.fixed === b.fixed && a.unit === b.unit;
        const own = list.filter(
          (i) =>
            !same(
              i,
              library.knowledge.instruments.find((l) => l.id === i.id),
            ),
        );
        await store.save(own, baseSeq, author, now());
        return this.instruments();
      },
    };
  };
}

export type BenchService = ReturnType<typeof createBenchService>;
