import { randomUUID } from "node:crypto";
import { compareDrives } from "@gearsense/core/drive";
import { formatQuantity, type UnitSystem } from "@gearsense/core/quantity";
import { approvalNow, buildEstimate, buildReport, decidedOption, feltOf, type Report } from "@gearsense/core/report";
import { moneyOf, priceOf, standingOf } from "@gearsense/core/suspect";
import type { ShopTerms } from "../accounts/store.ts";
import type { ShopScope } from "../db/shop-scope.ts";
import { HttpError } from "../http/errors.ts";
import type { createJobService } from "../jobs/service.ts";
import type { JudgementService } from "../judgement/service.ts";
import type { Library } from "../library/load.ts";
import { provedBy } from "../logs/proved-by.ts";
import type { LogService } from "../logs/service.ts";
import { createPhotoStore } from "../photos/store.ts";
import { pricedFor } from "../prices/priced.ts";
import { keepOutput } from "../queue/output.ts";
import type { Ask, Attempt, Tasks } from "../queue/work.ts";
import type { DrawPdf } from "./pdf-thread.ts";

export function createReportService(
  jobs: ReturnType<typeof createJobService>,
  logs: LogService,
  judgement: JudgementService,
  library: Library,
  draw: DrawPdf,
  ask: Ask,
  now: () => Date,
) {
  return (scope: ShopScope) => ({
    /** Has a paper drawn. @returns the id of the work, under which it lies */
    async ask(task: Tasks["paper"], signal: AbortSignal): Promise<string> {
      await jobs(scope).record(task.jobId);
      const id = randomUUID();
      await ask(scope, "paper", task, { id, signal });
      return id;
    },

    /** Does the work: gathers what stands on the paper, draws it and keeps it until it is handed out. */
    async make({ jobId, paper, shop, system }: Tasks["paper"], { id, signal, stage }: Attempt): Promise<void> {
      stage("gathering what is known");
      const report =
        paper === "estimate"
          ? await this.estimate(jobId, shop, system, now(), signal)
          : await this.report(jobId, shop, system, signal);
      const store = createPhotoStore(scope);
      const pictures = new Map<string, Buffer>();
      for (const { photoId } of report.photos ?? []) {
        const content = await store.content(photoId);
        if (content) pictures.set(photoId, content);
      }
      stage("drawing the pages");
      await keepOutput(scope, id, await draw({ report, pictures }, signal), now());
    },

    /** The estimate for the customer. @throws HttpError 409 while nothing is decided */
    async estimate(
      jobId: string,
      shop: ShopTerms,
      system: UnitSystem,
      today: Date,
      signal?: AbortSignal,
    ): Promise<Report> {
      const job = await jobs(scope).record(jobId);
      const { state } = await logs(scope).analysed(jobId, signal);
      const decision = state.decision?.body;
      if (!decision)
        throw new HttpError(
          409,
          "nothing-decided",
          "Nothing is decided yet: choose an option first, the estimate is made from it.",
        );
      const { advice } = await judgement(scope).suspects(jobId, shop, signal);
      const { repairs } = await judgement(scope).catalogue(jobId);
      const knowledge = await pricedFor(scope, library.knowledge, job.unit.id);
      const repair =
        repairs.find((r) => r.id === decision.repairId) ??
        advice.options.find((o) => o.repair.id === decision.repairId)?.repair;
      const typed = state.estimates.find((e) => e.body.optionId === decidedOption(decision))?.body;
      const others = advice.options.filter((o) => o.repair.id !== decision.repairId && o.cures >= FITS);
      const exchange = others.find((o) => o.repair.option === "exchange");
      const shown = others.slice(0, OTHERS);
      if (exchange && !shown.includes(exchange)) shown.push(exchange);
      const day = (d: Date) => d.toISOString().slice(0, 10);
      return buildEstimate({
        shopName: shop.name,
        currency: shop.currency,
        hourlyRate: shop.hourlyRate,
        jobNumber: job.number,
        madeOn: day(today),
        validUntil: day(new Date(today.getTime() + (typed?.validDays ?? ESTIMATE_DAYS) * 86_400_000)),
        vehicle: job.vehicle,
        odometer: formatQuantity(job.odometerKm, "distance", system).text,
        state,
        decision,
        offer: repair && {
          repair,
          price: priceOf(
            job.unit,
            knowledge,
            repair,
            repair.sources?.find((x) => x.id === decision.source),
            standingOf(job.unit, knowledge, state).opened,
            moneyOf(state, shop.hourlyRate),
          ),
          typed,
        },
        terms: shop.terms,
        approval: approvalNow(state),
        others: shown.map((o) => ({ title: o.repair.title, price: o.cost, cures: o.cures })),
        standingCaution: library.knowledge.standingCaution,
      });
    },

    async report(jobId: string, shop: ShopTerms, system: UnitSystem, signal?: AbortSignal): Promise<Report> {
      const job = await jobs(scope).record(jobId);
      const { state, logs: analysed } = await logs(scope).analysed(jobId, signal);
      const proof = provedBy(state, analysed);
      const [before, after] = [proof.before.map((l) => l.analysis), proof.after.map((l) => l.analysis)];
      const [first, second] = [before.at(-1), after.at(-1)];
      const ranking = first || state.level ? (await judgement(scope).suspects(jobId, shop, signal)).ranking : undefined;
      return buildReport({
        shopName: shop.name,
        currency: shop.currency,
        jobNumber: job.number,
        openedOn: job.openedAt.slice(0, 10),
        vehicle: job.vehicle,
        odometerKm: job.odometerKm,
        unit: job.unit,
        state,
        before: first,
        after: second,
        comparison: first && second ? compareDrives(before, after, state.intake?.body.symptoms ?? []) : undefined,
        felt: feltOf(state),
        ranking,
        causes: library.knowledge.bench.causes,
        system,
        standingCaution: library.knowledge.standingCaution,
      });
    },
  });
}

/** An option that fits cures at least so likely; so many are named. */
const FITS = 0.3;
const OTHERS = 3;
/** Days that an estimate holds. */
export const ESTIMATE_DAYS = 30;

export type ReportService = ReturnType<typeof createReportService>;
