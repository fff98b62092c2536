import { randomUUID } from "node:crypto";
import { Readable } from "node:stream";
import type { LinkView, RecordingStartInput, RecordingView } from "@gearsense/contract";
import { metConditions, type SameCondition, sameConditions } from "@gearsense/core/drive";
import type { JobState } from "@gearsense/core/job";
import { InputError, openLog, proposeMapping } from "@gearsense/core/log";
import type { Unit } from "@gearsense/core/unit";
import {
  batchesOf,
  type LinkDefinition,
  LinkError,
  type LinkSession,
  readAllCodes,
  readBatch,
  readVin,
} from "@gearsense/link";
import type { ShopScope } from "../db/shop-scope.ts";
import { HttpError } from "../http/errors.ts";
import type { Author, createJobService } from "../jobs/service.ts";
import { askLink, definitionFor, linkTo, otherVin } from "../link/line.ts";
import { provedBy } from "../logs/proved-by.ts";
import type { LogService } from "../logs/service.ts";
import { EMPTY_LIVE, type Running, startRunning } from "./running.ts";
import { createRecordingStore, type RecordingRow } from "./store.ts";

/** Without a sign of life for so long a recording is cut off, ms. */
const CUT_AFTER_MS = 4000;
const LOOK_AGAIN_MS = 100;
/** Around a mark, s: a hand takes its time. */
const MARK_BEFORE_S = 4;
const MARK_AFTER_S = 1;
const MOST_MARKS = 500;

const refused = (code: string, message: string) => new HttpError(409, code, message);

const ANSWERS_TIMED = 4;
/** How long an answer with the values of a full question takes, on average, ms; 0 when none comes. */
async function answerTimeMs(session: LinkSession, definition: LinkDefinition): Promise<number> {
  const batch = batchesOf(
    definition,
    definition.channels.filter((c) => c.ecu === "transmission").map((c) => c.channel),
  )[0];
  if (!batch) return 0;
  const began = performance.now();
  for (let i = 0; i < ANSWERS_TIMED; i++) {
    try {
      await readBatch(session, batch);
    } catch (error) {
      if (!(error instanceof LinkError) || error.kind === "gone") throw error;
      return 0;
    }
  }
  return (performance.now() - began) / ANSWERS_TIMED;
}

/** What a proof drive has to meet again: conditions of what was found before, less what earlier proof drives have met. */
function stillWanted(
  unit: Unit,
  state: JobState,
  analysed: Awaited<ReturnType<ReturnType<LogService>["analysed"]>>["logs"],
): SameCondition[] {
  const { before, after } = provedBy(state, analysed);
  const wanted = sameConditions(
    unit,
    before.map((l) => l.analysis),
  );
  const driven = {
    groups: after.flatMap((l) => l.analysis.held.groups),
    shifts: after.flatMap((l) => l.analysis.shifts),
  };
  return metConditions(wanted, driven)
    .filter((m) => m.driven < m.condition.needed)
    .map((m) => ({ ...m.condition, needed: m.condition.needed - m.driven }));
}

/**
 * Records drives from a link. One process holds the link; what it has is in the database twice a second, so that any process can
 * show it, end it, or keep what one that was killed had.
 * @param hosts - machines that may be connected to
 */
export function createRecordingService(
  jobs: ReturnType<typeof createJobService>,
  logs: LogService,
  hosts: readonly string[],
  now: () => Date,
) {
  const running = new Map<string, Running>();
  const isCut = (r: RecordingRow) => r.stopped || now().getTime() - r.beat_at.getTime() > CUT_AFTER_MS;
  const viewOf = (r: RecordingRow): RecordingView => ({
    id: r.id,
    role: r.role,
    author: r.author,
    channels: [...r.channels],
    startedAt: r.started_at.toISOString(),
    seconds: r.seconds,
    rows: r.rows,
    live: r.live,
    marks: [...r.marks],
    state: r.state === "open" && isCut(r) ? "cut" : r.state,
    logId: r.log_id,
  });
  const of = (scope: ShopScope) => {
    const store = createRecordingStore(scope);
    const viewById = async (id: string) => viewOf((await store.byId(id)) as RecordingRow);
    const openOf = async (jobId: string): Promise<RecordingRow> => {
      await jobs(scope).record(jobId);
      const r = await store.newest(jobId);
      if (r?.state !== "open") throw refused("nothing-recorded", "Nothing is being recorded for this job.");
      return r;
    };
    /** Whoever holds the link is asked to stop, and waited for. */
    const stopped = async (id: string): Promise<void> => {
      const mine = running.get(id);
      if (mine) return mine.stop();
      await store.update(id, { to_stop: true });
      for (;;) {
        const r = await store.byId(id);
        if (!r || isCut(r)) return;
        await new Promise((resolve) => setTimeout(resolve, LOOK_AGAIN_MS));
      }
    };
    /** What was written down becomes a log of the job; marks become notes on their spans. @returns id of the log */
    const toLog = async (r: RecordingRow): Promise<string> => {
      const stamp = r.started_at.toISOString().slice(0, 16).replace(":", "");
      const fileName = `recorded-${stamp}.csv`;
      const author: Author = { name: r.author };
      const bytes = await store.bytes(r.id);
      const source = Readable.from(store.pieces(r.id));
      const { logId } = await logs(scope).upload(r.job_id, fileName, r.role, undefined, bytes, source, author);
      for (const m of [...r.marks].sort((a, b) => a.timeS - b.timeS)) {
        const span = { logId, startS: Math.max(0, m.timeS - MARK_BEFORE_S), endS: m.timeS + MARK_AFTER_S };
        const text = m.name === "" ? "Felt it here" : `Felt here: ${m.name}`;
        await jobs(scope).append(r.job_id, author, "note", { text, span }, "typed", undefined);
      }
      return logId;
    };
    /** A drive too short to be read stays a log that was not analysed. */
    const analysed = async (r: RecordingRow, logId: string): Promise<void> => {
      const head = (await store.pieces(r.id).next()).value;
      const { unit } = await jobs(scope).record(r.job_id);
      try {
        const mapping = proposeMapping(openLog(head ?? new Uint8Array()).table, unit);
        await logs(scope).analyse(r.job_id, logId, { mapping }, { name: r.author });
      } catch (error) {
        if (!(error instanceof InputError) && !(error instanceof HttpError && error.status === 422)) throw error;
      }
    };

    return {
      /** Who is at the other end: number, codes, what can be recorded. */
      async look(jobId: string, at: { host: string; port: number }): Promise<LinkView> {
        const { vehicle, unit } = await jobs(scope).record(jobId);
        return askLink(at, hosts, async (session) => {
          const vin = await readVin(session);
          const codes = await readAllCodes(session);
          const definition = definitionFor(unit, undefined);
          const answerMs = await answerTimeMs(session, definition);
          return {
            answerMs,
            simulated: session.isSimulated,
            vin: vin ?? null,
            otherVehicle: otherVin(vin, vehicle.vin ?? "") ? (vehicle.vin ?? "") : null,
            codes: codes.map((c) => ({ code: c.code, module: c.ecu, status: c.status })),
            channels: definition.channels.map((c) => c.channel),
          };
        });
      },

      async state(jobId: string): Promise<RecordingView | null> {
        await jobs(scope).record(jobId);
        const r = await store.newest(jobId);
        return r ? viewOf(r) : null;
      },

      /** @throws HttpError 409 when this link or job is being recorded, or another vehicle is on the line and nobody said so */
      async start(jobId: string, input: RecordingStartInput, author: Author): Promise<RecordingView> {
        const { vehicle, unit } = await jobs(scope).record(jobId);
        const newest = await store.newest(jobId);
        if (newest?.state === "open")
          throw refused(
            "recording-runs",
            isCut(newest)
              ? "A recording of this job has ended and is not settled yet: keep it or drop it first."
              : `${newest.author} is recording this job already: end that recording first.`,
          );
        const { state, logs: analysed } = await logs(scope).analysed(jobId);
        if (state.stage === "closed" && input.role !== "break-in")
          throw refused(
            "closed",
            "The job is handed over and closed. Open it again as a comeback at the hand-over before you record for it.",
          );
        const asked = state.intake?.body.symptoms ?? [];
        const wanted = input.role === "after" ? stillWanted(unit, state, analysed) : [];
        const definition = definitionFor(unit, input.definition);
        const unknown = input.channels.find((c) => !definition.channels.some((d) => d.channel === c));
        if (unknown)
          throw new HttpError(
            422,
            "no-channel",
            `No identifier holds "${unknown}": choose among those of the definition.`,
          );
        return linkTo(input, hosts, vehicle.vin ?? "", input.otherVehicle, async (session, vin) => {
          const address = `${input.host}:${input.port}`;
          if (await store.inRelearn(address)) throw refused("link-taken", `A relearn holds ${address}: end it first.`);
          const id = randomUUID();
          const started = now();
          const inserted = await store.insert({
            id,
            job_id: jobId,
            address,
            role: input.role,
            author: author.name,
            channels: JSON.stringify(input.channels),
            vin: vin ?? null,
            started_at: started,
            beat_at: started,
            seconds: 0,
            rows: 0,
            live: JSON.stringify(EMPTY_LIVE),
            marks: "[]",
            to_stop: false,
            stopped: false,
            state: "open",
            log_id: null,
          });
          if (!inserted)
            throw refused(
              "link-taken",
              `${address} is being recorded for another job: end that recording, and keep or drop it, first.`,
            );
          const ended = () => running.delete(id);
          const what = { unit, asked, wanted, definition, channels: input.channels };
          running.set(id, startRunning(store, id, session, what, now, ended));
          return viewById(id);
        });
      },

      /** Felt it now, or some time ago; the same mark again is given its name. @throws HttpError 409 when nothing is being recorded */
      async mark(jobId: string, mark: { id: string; name: string; agoS: number }): Promise<RecordingView> {
        const { id } = await openOf(jobId);
        await scope.transaction(async (trx) => {
          const held = createRecordingStore(trx);
          const r = (await held.hold(id)) as RecordingRow;
          const known = r.marks.some((m) => m.id === mark.id);
          if (!known && r.marks.length >= MOST_MARKS)
            throw refused("marks-full", `There are ${MOST_MARKS} marks already; end this recording and begin another.`);
          // what was shown last is up to half a second old
          const sinceS = r.stopped ? 0 : Math.min(CUT_AFTER_MS, now().getTime() - r.beat_at.getTime()) / 1000;
          // a simulated drive may go faster than our clock
          const ranS = (r.beat_at.getTime() - r.started_at.getTime()) / 1000;
          const pace = ranS > 1 ? r.live.timeS / ranS : 1;
          const timeS = Math.max(0, r.live.timeS + (sinceS - mark.agoS) * pace);
          const marks = known
            ? r.marks.map((m) => (m.id === mark.id ? { ...m, name: mark.name } : m))
            : [...r.marks, { id: mark.id, timeS, name: mark.name }];
          await held.update(id, { marks: JSON.stringify(marks) });
        });
        return viewById(id);
      },

      /** Ends it; what was recorded is kept as a log of the job and analysed, or dropped. */
      async end(jobId: string, wanted: "keep" | "drop"): Promise<RecordingView> {
        const { id } = await openOf(jobId);
        await stopped(id);
        const kept = await scope.transaction(async (trx) => {
          const held = createRecordingStore(trx);
          const r = (await held.hold(id)) as RecordingRow;
          // somebody else has settled it meanwhile
          if (r.state !== "open") return undefined;
          if (wanted === "keep" && r.rows === 0)
            throw refused("nothing-came", "Nothing was recorded: no reading came over the link. Drop it.");
          const logId = wanted === "keep" ? await toLog(r) : null;
          await held.update(id, { state: wanted === "keep" ? "kept" : "dropped", log_id: logId });
          return logId ? { r, logId } : undefined;
        });
        if (kept) await analysed(kept.r, kept.logId);
        await store.dropPieces(id);
        return viewById(id);
      },
    };
  };
  return {
    of,
    /** Stops what this process records, all of it written down; somebody keeps or drops it later. */
    async rest(): Promise<void> {
      await Promise.allSettled([...running.values()].map((r) => r.stop()));
    },
  };
}
