import { randomUUID } from "node:crypto";
import type { LearnedView, RelearnRunView, RelearnStartInput } from "@gearsense/contract";
import { breakInOf } from "@gearsense/core/bench";
import { shiftsOf } from "@gearsense/core/drive";
import { foldJob, type JobState } from "@gearsense/core/job";
import { beginRelearn, judgeConditions, type RelearnState } from "@gearsense/core/relearn";
import type { DrivenProcedure, Unit } from "@gearsense/core/unit";
import type { ShopScope } from "../db/shop-scope.ts";
import { HttpError } from "../http/errors.ts";
import type { Author, createJobService } from "../jobs/service.ts";
import { definitionFor, linkTo } from "../link/line.ts";
import type { LogService } from "../logs/service.ts";
import { type RunningRelearn, startRelearnRun } from "./running.ts";
import { createRelearnStore, type RelearnLive, type RelearnRow } from "./store.ts";

/** Without a sign of life for so long a relearn is cut off, ms. */
const CUT_AFTER_MS = 4000;
const LOOK_AGAIN_MS = 80;

const refused = (code: string, message: string) => new HttpError(409, code, message);

/** A procedure that can be gone through. @throws HttpError 422 */
function procedureOf(unit: Unit, id: string): DrivenProcedure {
  const found = unit.relearn?.find((p) => p.id === id);
  if (!found) throw new HttpError(422, "no-procedure", `${unit.name} has no relearn "${id}".`);
  if (!found.machine)
    throw new HttpError(
      422,
      "no-machine",
      `The unit file tells "${found.name}" in words only: do it with the maker’s tool and type the values in.`,
    );
  return found as DrivenProcedure;
}

/** How often a procedure was begun today without success since the inside was last worked on. */
export function failedToday(state: JobState, procedureId: string, today: string): number {
  const worked = Math.max(0, ...[...state.work, ...state.bench, ...state.tried].map((e) => e.seq));
  const runs = state.relearns.filter(
    (r) => r.body.procedureId === procedureId && r.seq > worked && r.at.slice(0, 10) === today,
  );
  const success = runs.findLastIndex((r) => r.body.outcome === "done");
  return runs.length - 1 - success;
}

/**
 * Relearns at a link. One process holds it; what it has is in the database twice a second, so that any process can show, begin and
 * end it. How it ended stands on the timeline.
 * @param hosts - machines that may be connected to
 */
export function createRelearnService(
  jobs: ReturnType<typeof createJobService>,
  logs: LogService,
  hosts: readonly string[],
  now: () => Date,
) {
  const running = new Map<string, RunningRelearn>();
  const isCut = (r: RelearnRow) => now().getTime() - r.beat_at.getTime() > CUT_AFTER_MS;
  const viewOf = (r: RelearnRow): RelearnRunView => ({
    id: r.id,
    procedureId: r.procedure_id,
    author: r.author,
    startedAt: r.started_at.toISOString(),
    phase: r.phase !== "over" && isCut(r) ? "cut" : r.phase,
    ...r.live,
  });

  const of = (scope: ShopScope) => {
    const store = createRelearnStore(scope);
    const viewById = async (id: string) => viewOf((await store.byId(id)) as RelearnRow);
    const openOf = async (jobId: string): Promise<RelearnRow> => {
      await jobs(scope).record(jobId);
      const r = await store.newest(jobId);
      if (!r || r.phase === "over") throw refused("no-relearn", "No relearn holds a link for this job.");
      return r;
    };
    /** Puts how it ended on the timeline. What was only looked at leaves the values that were read. */
    const settle = async (r: RelearnRow, procedure: DrivenProcedure, live: RelearnLive): Promise<void> => {
      running.delete(r.id);
      if (!(await store.settle(r.id, { beat_at: now(), live: JSON.stringify(live) }))) return;
      const author: Author = { name: r.author };
      const { end } = live.state;
      if (!end) {
        if (Object.keys(live.before).length === 0) return;
        const body = { values: live.before, how: "link" as const, note: "" };
        await jobs(scope).append(r.job_id, author, "learned", body, "computed", undefined);
        return;
      }
      const { code, element, outcome, say, next, ends } = end;
      await jobs(scope).append(
        r.job_id,
        author,
        "relearn",
        {
          procedureId: procedure.id,
          title: procedure.name,
          how: "link",
          ...{ outcome, say, next, ends, code, element },
          stage: procedure.machine.stages[live.state.stage]?.say ?? "",
          before: live.before,
          after: live.after,
          note: "",
        },
        "computed",
        undefined,
      );
    };
    return {
      async state(jobId: string): Promise<RelearnRunView | null> {
        await jobs(scope).record(jobId);
        const r = await store.newest(jobId);
        return r ? viewOf(r) : null;
      },

      /**
       * Takes the link: the values are read and stored, the conditions watched.
       * @throws HttpError 409 when the link is taken, another vehicle is on it, or it was tried too often today
       */
      async start(jobId: string, input: RelearnStartInput, author: Author): Promise<RelearnRunView> {
        const { vehicle, unit } = await jobs(scope).record(jobId);
        const procedure = procedureOf(unit, input.procedureId);
        const newest = await store.newest(jobId);
        if (newest && newest.phase !== "over")
          throw refused("relearn-runs", `${newest.author} has a relearn of this job at a link: end that one first.`);
        const job = foldJob(await jobs(scope).entries(jobId));
        if (job.stage === "closed") throw refused("closed", "The job is handed over and closed.");
        const { machine } = procedure;
        const tried = failedToday(job, procedure.id, now().toISOString().slice(0, 10));
        if (tried >= machine.repeats)
          throw refused(
            "too-often",
            `Started ${tried} times today without success; the unit file allows ${machine.repeats}. Find out why first: it can be started again after work on the unit, or tomorrow.`,
          );
        const writes = machine.kind === "write-back";
        const wrong = Object.keys(input.values).find((id) => !unit.adaptations?.some((a) => a.id === id));
        if (wrong !== undefined) throw new HttpError(422, "no-value", `${unit.name} has no learned value "${wrong}".`);
        if (writes && Object.keys(input.values).length === 0)
          throw new HttpError(422, "no-values", "Type the noted values that are to be written back.");
        const definition = definitionFor(unit, undefined);
        const address = `${input.host}:${input.port}`;
        return linkTo(input, hosts, vehicle.vin ?? "", input.otherVehicle, async (session) => {
          if (!session.isSimulated)
            throw refused(
              "only-reads",
              "A vehicle is on the line that is not simulated: Gearsense only reads from it. Do the relearn with the maker’s own tool and go through the steps here without a link.",
            );
          if (await store.recorded(address))
            throw refused("link-taken", `A drive is being recorded from ${address}: end that recording first.`);
          const id = randomUUID();
          const started = now();
          const live: RelearnLive = {
            values: {},
            routine: null,
            state: beginRelearn(machine, 0),
            before: {},
            after: {},
            gone: null,
          };
          const inserted = await store.insert({
            id,
            job_id: jobId,
            address,
            procedure_id: procedure.id,
            author: author.name,
            started_at: started,
            beat_at: started,
            phase: "preparing",
            live: JSON.stringify(live),
            to_begin: false,
            to_stop: false,
          });
          if (!inserted) throw refused("link-taken", `A relearn of another job holds ${address}: end that one first.`);
          const row = (await store.byId(id)) as RelearnRow;
          running.set(
            id,
            startRelearnRun(store, id, session, { unit, machine, definition, noted: input.values }, now, (ended) =>
              settle(row, procedure, ended),
            ),
          );
          return viewById(id);
        });
      },

      /** @throws HttpError 409 when a condition does not hold */
      async begin(jobId: string): Promise<RelearnRunView> {
        const r = await openOf(jobId);
        const { unit } = await jobs(scope).record(jobId);
        const { machine } = procedureOf(unit, r.procedure_id);
        const read = new Map(Object.entries(r.live.values));
        const open = judgeConditions(machine.preconditions, read).filter((j) => j.holds !== true);
        if (open.length > 0) throw refused("not-yet", `Not yet: ${open.map((j) => j.condition.say).join("; ")}.`);
        await store.update(r.id, { to_begin: true });
        running.get(r.id)?.wake();
        return viewById(r.id);
      },

      /** Ends it, or lets go of the link; one whose process is gone is settled as it was seen last. */
      async end(jobId: string): Promise<RelearnRunView> {
        const r = await openOf(jobId);
        const { unit } = await jobs(scope).record(jobId);
        const mine = running.get(r.id);
        if (mine) await mine.stop();
        else await store.update(r.id, { to_stop: true });
        for (;;) {
          const seen = (await store.byId(r.id)) as RelearnRow;
          if (seen.phase === "over") return viewOf(seen);
          if (isCut(seen)) {
            const state: RelearnState =
              seen.phase === "running"
                ? {
                    ...seen.live.state,
                    end: {
                      outcome: "aborted",
                      say: "The server that ran it stopped; the control unit ends the routine by itself",
                      next: "Start again.",
                      ends: "again",
                      code: null,
                      element: null,
                    },
                  }
                : seen.live.state;
            await settle(seen, procedureOf(unit, seen.procedure_id), { ...seen.live, state });
            return viewById(r.id);
          }
          await new Promise((resolve) => setTimeout(resolve, LOOK_AGAIN_MS));
        }
      },

      /** Learned values of the vehicle over all its visits: read by themselves, around relearns, and out of logs. */
      async learned(jobId: string, signal?: AbortSignal): Promise<LearnedView> {
        const visits = await jobs(scope).visits(jobId);
        const readings: LearnedView["readings"][number][] = [];
        const resets: string[] = [];
        for (const job of visits) {
          const state = foldJob(await jobs(scope).entries(job.id));
          const add = (at: string, values: Readonly<Record<string, number>>, from: string) => {
            if (Object.keys(values).length > 0)
              readings.push({ at, odometerKm: job.odometerKm, values, jobNumber: job.number, from });
          };
          for (const e of state.learned) add(e.at, e.body.values, "read");
          for (const e of state.relearns) {
            const p = job.unit.relearn?.find((r) => r.id === e.body.procedureId);
            add(e.at, e.body.before, `before: ${e.body.title}`);
            if (p?.machine?.resets && e.body.outcome === "done") resets.push(e.at);
            add(e.at, e.body.after, `after: ${e.body.title}`);
          }
          const { logs: analysed } = await logs(scope).analysed(job.id, signal);
          for (const l of analysed) {
            const entry = state.logs.find((x) => x.body.logId === l.logId);
            if (entry)
              add(entry.at, Object.fromEntries(l.analysis.adaptations.map((a) => [a.id, a.last])), entry.body.fileName);
          }
        }
        const { unit, odometerKm } = await jobs(scope).record(jobId);
        const { state, logs: own } = await logs(scope).analysed(jobId, signal);
        const breakIn = breakInOf(unit, state, odometerKm, own) ?? null;
        const worked = Math.max(0, ...state.work.map((w) => w.seq));
        const since = own.filter((l) => l.role === "after" && l.entry.seq > worked).map((l) => l.analysis);
        return {
          shifts: shiftsOf(since),
          breakIn,
          readings: readings.sort((a, b) => a.at.localeCompare(b.at)),
          resets,
        };
      },
    };
  };
  return {
    of,
    /** Ends what this process holds. */
    async rest(): Promise<void> {
      await Promise.allSettled([...running.values()].map((r) => r.stop()));
    },
  };
}
