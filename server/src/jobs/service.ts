import { randomUUID } from "node:crypto";
import type {
  JobPageView,
  JobView,
  KnownVehicleView,
  NewEntryInput,
  NewJobInput,
  VehiclesQueryView,
} from "@gearsense/contract";
import { provedBy } from "@gearsense/core/figures";
import {
  currentInSlot,
  type Entry,
  type EntryBodies,
  type EntryKind,
  foldJob,
  slotOf,
  untouched,
  wordsOf,
} from "@gearsense/core/job";
import { checkAgainstUnit } from "@gearsense/core/observe";
import type { Procedure } from "@gearsense/core/procedure";
import { type EarlierWork, earlierWork, type Knowledge, type OwnJobs, ownJobs } from "@gearsense/core/suspect";
import type { Unit } from "@gearsense/core/unit";
import { checkBench, checkCause } from "../bench/check.ts";
import type { ShopScope } from "../db/shop-scope.ts";
import { HttpError, notFound } from "../http/errors.ts";
import type { UnitService } from "../units/service.ts";
import { checkFilling, checkPlan } from "./plan.ts";
import { checkReferences } from "./references.ts";
import { createJobStore, type HeadsWanted, type JobHead, type JobRecord } from "./store.ts";

export interface Author {
  readonly name: string;
}

/** What is written after a job was handed over: the vehicle is driven, and shown again. */
const AFTER_HANDOVER: ReadonlySet<EntryKind> = new Set(["note", "comeback", "break-in", "learned"]);

/** The drives of its first kilometres, too. */
function ofBreakIn(entries: readonly Entry[], kind: EntryKind, body: unknown): boolean {
  if (kind === "log") return (body as EntryBodies["log"]).role === "break-in";
  if (kind !== "analysis") return false;
  const { logId } = body as EntryBodies["analysis"];
  return entries.some((e) => e.kind === "log" && e.body.logId === logId && e.body.role === "break-in");
}

/** The head of a job, from its timeline. */
export function headOf(entries: readonly Entry[], openedAt: string): JobHead & { readonly words: string } {
  const state = foldJob(entries);
  return {
    stage: state.stage,
    waitsFor: state.waitsFor,
    complaint: state.intake?.body.complaint ?? "",
    done: [state.decision?.body.title ?? "", ...state.work.flatMap((w) => w.body.parts.map((p) => p.name))]
      .filter(Boolean)
      .join("; "),
    assignedTo: state.assigned?.body.to ?? "",
    lastEntryAt: entries.at(-1)?.at ?? openedAt,
    words: wordsOf(entries),
  };
}

/** A head as it is shown: what is only searched stays behind. */
const seenOf = ({ words: _words, ...head }: ReturnType<typeof headOf>): JobHead => head;

/** Works out what a job has shown, once it is closed, and again when it is no longer. */
async function keepProved(scope: ShopScope, knowledge: Knowledge, jobId: string): Promise<void> {
  const store = createJobStore(scope);
  const job = await store.byId(jobId);
  if (!job) throw notFound("job");
  const { number, unit, vehicle } = job;
  const entries = await store.entries(jobId);
  const of = { number, customer: vehicle.owner, vehicle: vehicle.name, entries };
  await store.setProved(jobId, provedBy(unit, knowledge, of));
}

/** Makes the heads of jobs that have none yet, and what closed ones have shown. */
export async function fillHeads(scope: ShopScope, knowledge: () => Knowledge): Promise<void> {
  const store = createJobStore(scope);
  for (;;) {
    const ids = await store.withoutHead(HEADS_AT_ONCE);
    if (ids.length === 0) break;
    for (const id of ids) await store.setHead(id, headOf(await store.entries(id), new Date().toISOString()));
  }
  for (;;) {
    const ids = await store.withoutProved(HEADS_AT_ONCE);
    if (ids.length === 0) break;
    for (const id of ids) await keepProved(scope, knowledge(), id);
  }
}
const HEADS_AT_ONCE = 500;
/** Of a shop that has proved more, the newest count: what fails changes with the vehicles. */
const MOST_OWN_JOBS = 2000;
/** Vehicles offered while one is typed. */
const MOST_VEHICLES = 20;

const normalVin = (vin: string) => vin.replace(/[\s-]/g, "").toUpperCase();

/** What cannot be in the unit is refused by its fields. */
function refuseImplausible<K extends EntryKind>(kind: K, body: EntryBodies[K], unit: Unit, at = "body."): void {
  const wrong = Object.entries(checkAgainstUnit(kind, body, unit));
  if (wrong.length === 0) return;
  throw new HttpError(422, "implausible", wrong.map(([, text]) => text).join(" "), {
    fields: Object.fromEntries(wrong.map(([field, text]) => [`${at}${field}`, text])),
  });
}

const noUnit = (unitId: string, field: string) =>
  new HttpError(400, "invalid", `${field}: the library has no unit "${unitId}". Choose one from the list.`, {
    fields: { [field]: "choose a unit from the list" },
  });

/** Jobs and what is written on their timelines. */
export function createJobService(
  units: UnitService,
  procedures: readonly Procedure[],
  knowledge: Knowledge,
  now: () => Date,
) {
  return (scope: ShopScope) => {
    const jobs = createJobStore(scope);
    const record = async (jobId: string): Promise<JobRecord> => {
      const job = await jobs.byId(jobId);
      if (!job) throw notFound("job");
      return job;
    };
    const view = async (jobId: string): Promise<JobView> => {
      const job = await record(jobId);
      const entries = await jobs.entries(jobId);
      return {
        id: job.id,
        number: job.number,
        vehicle: job.vehicle,
        unitId: job.unit.id,
        unitName: job.unit.name,
        odometerKm: job.odometerKm,
        openedAt: job.openedAt,
        ...seenOf(headOf(entries, job.openedAt)),
        entries: entries as JobView["entries"],
        unit: job.unit as JobView["unit"],
        earlier: (await earlier(job)).map((e) => ({ ...e, parts: [...e.parts] })),
      };
    };
    /** Work on the same vehicle in jobs before this one, newest first. */
    const earlier = async (job: JobRecord): Promise<EarlierWork[]> => {
      const before = (await jobs.ofVehicle(job.vehicle.id))
        .filter((j) => j.id !== job.id && j.openedAt < job.openedAt)
        .sort((a, b) => b.openedAt.localeCompare(a.openedAt));
      const found = await Promise.all(
        before.map(async ({ id, number, openedAt, odometerKm }) =>
          earlierWork({ jobId: id, number, openedAt, odometerKm }, foldJob(await jobs.entries(id))),
        ),
      );
      return found.filter((e) => e !== undefined);
    };

    /**
     * Appends an entry. `baseSeq` is what the writer saw in the slot; when the slot has moved on since, the entry is
     * refused with the one that stands there now. Undefined skips the comparison: for what the server computes itself.
     * @param agoS - how long ago it was made, where there was no network, s
     */
    const append = async <K extends EntryKind>(
      jobId: string,
      author: Author,
      kind: K,
      body: EntryBodies[K],
      source: Entry["source"],
      baseSeq: number | undefined,
      within = scope,
      check: (entries: readonly Entry[]) => void = () => undefined,
      agoS = 0,
    ): Promise<Entry> =>
      within.transaction(async (trx) => {
        const store = createJobStore(trx);
        if (!(await store.lock(jobId))) throw notFound("job");
        const entries = await store.entries(jobId);
        const id = randomUUID();
        const slot = slotOf(kind, body, id);
        const closed = foldJob(entries).stage === "closed";
        if (kind === "retraction") checkRetraction(entries, (body as EntryBodies["retraction"]).entryId);
        else if (closed && !AFTER_HANDOVER.has(kind) && !ofBreakIn(entries, kind, body)) {
          throw new HttpError(
            409,
            "closed",
            "The job is handed over and closed. Open it again as a comeback at the hand-over, or take the hand-over back on the timeline.",
          );
        }
        if (kind === "comeback" && !closed)
          throw new HttpError(
            409,
            "not-closed",
            "The job is open: it has not been handed over, so it did not come back.",
          );
        if (kind === "handover" && untouched(foldJob(entries)))
          throw new HttpError(
            409,
            "untouched",
            "Nothing was decided, done or proved on this job. Record a decision first; “nothing is wrong” is one too.",
          );
        if (baseSeq !== undefined) {
          const current = currentInSlot(entries, slot);
          // what was decided before it came back is history: whoever writes anew has not seen it as what stands
          const backAt = foldJob(entries).comebacks.at(-1)?.seq ?? 0;
          const fresh = baseSeq === 0 && (current?.seq ?? 0) < backAt;
          if (!fresh && (current?.seq ?? 0) !== baseSeq) {
            const who = current
              ? `${current.author} changed it at ${current.at.slice(11, 16)} UTC`
              : "it was taken back";
            throw new HttpError(
              409,
              "stale",
              `Somebody was faster: ${who} while you were typing. Yours is kept below and not stored; compare, then store it again or drop it.`,
              { current },
            );
          }
        }
        check(entries);
        // made where there was no network: its age counts, whatever clock the device has, as far as the job is old
        const nowMs = now().getTime();
        const atMs = Math.min(nowMs, Math.max(nowMs - agoS * 1000, Date.parse(entries[0]?.at ?? now().toISOString())));
        const entry = {
          id,
          seq: (entries.at(-1)?.seq ?? 0) + 1,
          at: new Date(atMs).toISOString(),
          author: author.name,
          source,
          kind,
          slot,
          body,
        } as Entry;
        await store.insertEntries(jobId, [entry]);
        const head = headOf([...entries, entry], entry.at);
        await store.setHead(jobId, head);
        if (closed || head.stage === "closed") await keepProved(trx, knowledge, jobId);
        return entry;
      });

    /** The unit that a correction is to. */
    const unitFor = async ({ unitId }: EntryBodies["identity"], unit: Unit): Promise<Unit> => {
      const to = unitId === unit.id ? unit : await units(scope).find(unitId);
      if (!to) throw noUnit(unitId, "body.unitId");
      return to;
    };
    /** Vehicle, unit and mileage set right: the entry is the history, the job's own row what counts. */
    const correct = async (trx: ShopScope, jobId: string, body: EntryBodies["identity"], unit: Unit) => {
      const { name, plate, owner, vin, odometerKm } = body;
      await createJobStore(trx).setIdentity(jobId, {
        vehicle: { name, plate, owner, vin: normalVin(vin) },
        unit,
        odometerKm,
      });
    };

    /** A repair that did not last counts as one that was tried and did not cure. */
    const didNotLast = async (
      trx: ShopScope,
      jobId: string,
      { repairId, odometerKm }: EntryBodies["comeback"],
      author: Author,
    ) => {
      if (repairId === null) return;
      const decided = (await createJobStore(trx).entries(jobId)).filter((e) => e.kind === "decision").at(-1);
      const title = decided?.kind === "decision" ? decided.body.title : repairId;
      for (const id of repairId.split("+")) {
        const body = { repairId: id, title, outcome: "no-change" as const, note: `Came back at ${odometerKm} km` };
        await append(jobId, author, "tried", body, "computed", undefined, trx);
      }
    };

    const checkRetraction = (entries: readonly Entry[], targetId: string) => {
      const target = entries.find((e) => e.id === targetId);
      if (!target) throw new HttpError(404, "not-found", "The entry to take back is not on this job's timeline.");
      if (target.kind === "identity")
        throw new HttpError(
          409,
          "not-taken-back",
          "A correction of vehicle, unit or mileage isn’t taken back: correct it once more, to what is right.",
        );
      if (entries.some((e) => e.kind === "retraction" && e.body.entryId === targetId))
        throw new HttpError(409, "stale", "This entry has been taken back already.");
    };

    return {
      append,
      view,
      record,
      earlier,
      /** This job and those of the same vehicle before it, oldest first. */
      async visits(jobId: string): Promise<JobRecord[]> {
        const job = await record(jobId);
        const before = (await jobs.ofVehicle(job.vehicle.id)).filter(
          (j) => j.id !== job.id && j.openedAt < job.openedAt,
        );
        return [...before.sort((a, b) => a.openedAt.localeCompare(b.openedAt)), job];
      },
      entries: (jobId: string) => jobs.entries(jobId),
      /** Works out what a job that came whole has shown. */
      keepProved: (jobId: string) => keepProved(scope, knowledge, jobId),
      /** What the shop's own proved jobs have shown. @param except - a job that is judged by the others */
      ownJobs: async (except?: string): Promise<OwnJobs> => ownJobs(await jobs.proved(MOST_OWN_JOBS, except)),
      /** Vehicles that what is typed may mean; of each its newest unit and mileage. */
      async vehicles(typed: VehiclesQueryView): Promise<KnownVehicleView[]> {
        const found = await jobs.vehiclesLike(typed, MOST_VEHICLES);
        return found.flatMap(({ jobs: list, ...vehicle }) => {
          const [newest] = list;
          if (!newest) return [];
          const { unitId, odometerKm } = newest;
          const shown = list.map(({ id, number, openedAt, complaint }) => ({ id, number, openedAt, complaint }));
          return [{ ...vehicle, unitId, odometerKm, jobs: shown }];
        });
      },
      async list(wanted: HeadsWanted): Promise<JobPageView> {
        const [found, byStage] = await Promise.all([jobs.heads(wanted), jobs.byStage(wanted.assignedTo)]);
        const shown = found.slice(0, wanted.limit);
        return { jobs: shown, next: found.length > shown.length ? (shown.at(-1)?.number ?? null) : null, byStage };
      },
      /**
       * Opens a job.
       * @param number - given for made-up data, else the next of the shop
       * @param writeKey - a second write with the same key answers with the job that the first one opened
       */
      async open(input: NewJobInput, author: Author, number?: string, writeKey?: string): Promise<JobView> {
        const unit = await units(scope).find(input.unitId);
        if (!unit) throw noUnit(input.unitId, "unitId");
        refuseImplausible("intake", input.intake, unit, "intake.");
        const id = randomUUID();
        const opened = await scope.transaction(async (trx) => {
          const store = createJobStore(trx);
          const before = writeKey && (await store.writtenBefore(writeKey, id, now()));
          if (before) return before;
          const vehicleId = await store.vehicleFor({ ...input.vehicle, vin: normalVin(input.vehicle.vin ?? "") });
          if (number) await store.continueFrom(number);
          await store.insertJob({
            id,
            number: number ?? (await store.nextNumber()),
            vehicleId,
            unit,
            odometerKm: input.odometerKm,
            openedAt: now().toISOString(),
          });
          await append(id, author, "intake", input.intake, "typed", 0, trx);
          return id;
        });
        return view(opened);
      },
      /** @param writeKey - a second write with the same key changes nothing */
      async write(jobId: string, input: NewEntryInput, author: Author, writeKey?: string): Promise<JobView> {
        const { unit } = await record(jobId);
        const body = input.body as EntryBodies[typeof input.kind];
        const to = input.kind === "identity" ? await unitFor(input.body, unit) : undefined;
        if (!to) refuseImplausible(input.kind, body, unit);
        if (input.kind === "bench") checkBench(unit, knowledge.bench, body as EntryBodies["bench"]);
        await checkReferences(scope, jobId, input.kind, body);
        await scope.transaction(async (trx) => {
          const before = writeKey && (await createJobStore(trx).writtenBefore(writeKey, jobId, now()));
          if (before === jobId) return;
          if (before)
            throw new HttpError(
              422,
              "key-used",
              "idempotency-key: it was used for a write on another job. Nothing was stored; send it with a key of its own.",
            );
          const check = (entries: readonly Entry[]) => {
            checkCause(entries, input);
            checkFilling(unit, entries, input);
            checkPlan(procedures, unit, entries, input);
          };
          await append(jobId, author, input.kind, body, "typed", input.baseSeq, trx, check, input.agoS);
          if (to) await correct(trx, jobId, body as EntryBodies["identity"], to);
          if (input.kind === "comeback") await didNotLast(trx, jobId, input.body, author);
        });
        return view(jobId);
      },
    };
  };
}
