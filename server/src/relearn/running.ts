import { advanceRelearn, beginRelearn, type RelearnEvent, type RelearnState, wantedOf } from "@gearsense/core/relearn";
import type { RelearnMachine, Unit } from "@gearsense/core/unit";
import {
  askRoutine,
  batchesOf,
  type LinkDefinition,
  LinkError,
  type LinkSession,
  RoadClock,
  type RoutineStatusRecord,
  readAllCodes,
  readBatch,
  readPid,
  startRoutine,
  stopRoutine,
  WriteRefused,
  writeValue,
} from "@gearsense/link";
import type { RelearnLive, RelearnStore } from "./store.ts";

/** Between two looks at the vehicle, ms. */
const LOOK_MS = 120;
/** What has come is written down so often, ms. */
const WRITE_MS = 400;
/** Codes are asked for so often: they take long, ms. */
const CODES_MS = 1500;
const LEARNED = "adapt_";
const SUPPLY = "supply_v";
const STATE_CODE = { running: 1, done: 2, stopped: 3, failed: 4 } as const;
const LEVER_CODE = { P: 1, R: 2, N: 3, D: 4 } as const;

export interface RelearnTask {
  readonly unit: Unit;
  readonly machine: RelearnMachine;
  readonly definition: LinkDefinition;
  /** noted values to be written back */
  readonly noted: Readonly<Record<string, number>>;
}

/** Learned values as the control unit holds them, by the ids of the unit file. */
export async function readLearned(
  session: LinkSession,
  definition: LinkDefinition,
  unit: Unit,
): Promise<Record<string, number>> {
  const wanted = (unit.adaptations ?? []).map((a) => `${LEARNED}${a.id}`);
  const out: Record<string, number> = {};
  for (const batch of batchesOf(definition, wanted))
    for (const [channel, value] of (await readBatch(session, batch)).values)
      if (Number.isFinite(value)) out[channel.slice(LEARNED.length)] = value;
  return out;
}

/** Channels that a procedure looks at. */
function channelsOf({ preconditions, guards, stages }: RelearnMachine): Set<string> {
  const all = [...preconditions, ...guards, ...stages.flatMap((s) => s.until ?? [])].map((c) => c.channel);
  const drives = stages.some((s) => s.windows);
  return new Set([...all, ...(drives ? ["gear_commanded", "pedal_pct", "vehicle_kmh", "fluid_c"] : [])]);
}

export interface RunningRelearn {
  /** Looks at once what was asked of it. */
  readonly wake: () => void;
  /** Ends it for good and waits until that is written. */
  readonly stop: () => Promise<void>;
}

/**
 * Goes through a procedure at a link: watches its conditions, begins it when somebody says so, follows it to its end. The routine
 * needs somebody who asks how it is: when this process dies, the control unit ends it by itself.
 * @param over - told how it ended, once; the link is closed then
 */
export function startRelearnRun(
  store: RelearnStore,
  id: string,
  session: LinkSession,
  { unit, machine, definition, noted }: RelearnTask,
  now: () => Date,
  over: (live: RelearnLive) => Promise<void>,
): RunningRelearn {
  const channels = channelsOf(machine);
  const batches = batchesOf(definition, [...channels]);
  const byId = new Map(definition.channels.map((c) => [c.channel, c]));
  const routineId = machine.routine === undefined ? undefined : Number.parseInt(machine.routine, 16);
  const clock = new RoadClock(performance.now());
  const values = new Map<string, number>();
  let routine: RoutineStatusRecord | undefined;
  let begun = false;
  let began = false;
  let timeS = 0;
  let codesAtMs = Number.NEGATIVE_INFINITY;
  let state: RelearnState = beginRelearn(machine, 0);
  let before: Record<string, number> = {};
  let after: Record<string, number> = {};
  let gone: string | null = null;
  let stopping = false;
  let rest: () => void = () => undefined;
  session.onGone((why) => {
    gone = why;
    rest();
  });

  const live = (): RelearnLive => ({
    values: Object.fromEntries([...values].filter(([, v]) => Number.isFinite(v))),
    routine: routine
      ? { state: routine.state, code: routine.code, lever: routine.lever ?? null, progressPct: routine.progressPct }
      : null,
    state,
    before,
    after,
    gone,
  });
  const tell = (event: RelearnEvent) => {
    state = advanceRelearn(machine, unit, state, event);
  };
  /** A control unit that is silent once is asked again; what it refuses stays without a reading. */
  const quietly = async (ask: () => Promise<void>): Promise<void> => {
    try {
      await ask();
    } catch (error) {
      if (!(error instanceof LinkError) || error.kind === "gone") throw error;
    }
  };
  const look = async (): Promise<void> => {
    for (const batch of batches)
      await quietly(async () => {
        const told = await readBatch(session, batch);
        timeS = clock.at(told.timeS, performance.now());
        for (const [c, v] of told.values) values.set(c, v);
      });
    if (channels.has(SUPPLY) && !byId.has(SUPPLY))
      await quietly(async () => {
        values.set(SUPPLY, await readPid(session, SUPPLY));
      });
    if (channels.has("codes") && performance.now() - codesAtMs > CODES_MS)
      await quietly(async () => {
        values.set("codes", (await readAllCodes(session)).length);
        codesAtMs = performance.now();
      });
    if (begun && routineId !== undefined)
      await quietly(async () => {
        routine = await askRoutine(session, routineId);
        values.set("routine_state", STATE_CODE[routine.state]);
        values.set("routine_progress_pct", routine.progressPct);
        if (routine.lever) values.set("routine_lever", LEVER_CODE[routine.lever]);
        else values.delete("routine_lever");
      });
  };
  const act = async (): Promise<void> => {
    const wanted = wantedOf(machine, state);
    if (!wanted) return;
    tell({ kind: "asked" });
    try {
      if (wanted === "read") {
        after = await readLearned(session, definition, unit);
        tell({ kind: "learned", values: after });
        return;
      }
      if (wanted === "start" && routineId !== undefined) {
        await startRoutine(session, routineId);
        begun = true;
      }
      if (wanted === "stop" && routineId !== undefined && routine?.state === "running")
        await stopRoutine(session, routineId);
      if (wanted === "write")
        for (const [name, value] of Object.entries(noted)) {
          const channel = byId.get(`${LEARNED}${name}`);
          if (!channel) throw new LinkError("failed", `No identifier holds "${name}".`);
          await writeValue(session, channel, value);
        }
      tell({ kind: "granted" });
    } catch (error) {
      if (error instanceof LinkError && error.kind === "gone") throw error;
      if (!(error instanceof LinkError || error instanceof WriteRefused)) throw error;
      tell({ kind: "refused", why: error.message });
    }
  };
  const pause = () =>
    new Promise<void>((resolve) => {
      const timer = setTimeout(resolve, LOOK_MS);
      rest = () => {
        clearTimeout(timer);
        resolve();
      };
    });
  const run = async () => {
    let wroteMs = Number.NEGATIVE_INFINITY;
    try {
      before = await readLearned(session, definition, unit);
      while (!stopping && gone === null && !state.end) {
        await look();
        if (began) {
          tell({
            kind: "live",
            timeS,
            values,
            routine: routine && { state: routine.state, code: routine.code, element: routine.element },
          });
          await act();
        }
        if (performance.now() - wroteMs > WRITE_MS || state.end) {
          wroteMs = performance.now();
          const r = await store.byId(id);
          // somebody took it for cut off and has settled it: it is theirs
          if (r?.to_stop || r?.phase === "over") stopping = true;
          if (r?.to_begin && !began) {
            began = true;
            state = beginRelearn(machine, timeS);
          }
          await store.update(id, {
            beat_at: now(),
            phase: began ? "running" : "preparing",
            live: JSON.stringify(live()),
          });
        }
        if (!stopping && !state.end) await pause();
      }
    } catch (error) {
      gone ??= error instanceof Error ? error.message : String(error);
    }
    if (began && !state.end) {
      const why = stopping ? "It was ended by hand" : `The link was lost: ${gone ?? "it is gone"}`;
      tell({ kind: "given-up", why });
    }
    if (gone === null) {
      // whatever happened: the routine is not left running, and the values are read as they are now
      if (begun && routineId !== undefined && state.end?.outcome !== "done")
        await quietly(() => stopRoutine(session, routineId)).catch(() => undefined);
      if (began) after = await readLearned(session, definition, unit).catch(() => after);
    }
    session.close();
    await over({ ...live(), gone: stopping ? null : gone });
  };
  const done = run();
  // what cannot be written now shows as cut off
  done.catch(() => undefined);
  return {
    wake: () => rest(),
    stop: () => {
      stopping = true;
      rest();
      return done.catch(() => undefined);
    },
  };
}
