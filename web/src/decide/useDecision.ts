import { horizonOf } from "@gearsense/core/decide";
import type { JobState } from "@gearsense/core/job";
import { moneyOf, standingOf } from "@gearsense/core/suspect";
import type { Unit } from "@gearsense/core/unit";
import * as Comlink from "comlink";
import { useEffect, useState } from "react";
import { useKnowledge, useSession, useSuspects } from "../api/queries.ts";
import { useJob } from "../job/job-context.tsx";
import type { Compared, DecideTask, DecideWorker } from "./decide.worker.ts";

/** The same vehicles are drawn each time: figures change only with the job. */
const SEED = 4711;

export type Comparing =
  | { readonly at: "waiting" }
  | { readonly at: "drawing"; readonly share: number }
  | { readonly at: "ready" }
  | { readonly at: "cancelled" }
  | { readonly at: "failed"; readonly message: string };

/** Repairs that are compared whatever the odds say: what was asked for, and what was decided. */
const alsoCompared = ({ sources, decision }: JobState): string[] => [
  ...(sources?.body.also ?? []).map((a) => a.repairId),
  ...(decision ? [decision.body.repairId] : []),
];

/** Compares the options in a thread of its own; leaving the view or `cancel` ends it. */
export function useDecision(): {
  readonly state: Comparing;
  /** the newest comparison, of an earlier state of the job while the next is drawn */
  readonly last: Compared | undefined;
  readonly cancel: () => void;
  readonly again: () => void;
} {
  const { job, state: jobState } = useJob();
  const { data } = useSuspects(job.id);
  const { data: knowledge, error, refetch } = useKnowledge(job.unitId);
  const { data: session } = useSession();
  const [state, setState] = useState<Comparing>({ at: "waiting" });
  const [last, setLast] = useState<Compared | undefined>();
  const [round, setRound] = useState(0);
  const [stopped, setStopped] = useState(false);
  const evidence = data?.evidence;
  const rate = session?.shop.hourlyRate;
  const { wish, keepYears, downtimeADay } = jobState.intake?.body ?? {};
  const prices = JSON.stringify(moneyOf(jobState, 1));
  const value = jobState.intake?.body.vehicleValue ?? null;
  const also = alsoCompared(jobState).join("\n");
  // biome-ignore lint/correctness/useExhaustiveDependencies: the job is fetched again and again; what it says changes with the evidence
  useEffect(() => {
    if (!evidence || !knowledge || rate === undefined || stopped) return;
    const thread = new Worker(new URL("./decide.worker.ts", import.meta.url), { type: "module" });
    const remote = Comlink.wrap<DecideWorker>(thread);
    let alive = true;
    setState({ at: "drawing", share: 0 });
    const unit = job.unit as Unit;
    const standing = standingOf(unit, knowledge, jobState);
    const task: DecideTask = {
      unit,
      knowledge,
      evidence,
      done: [...standing.done],
      tried: [...standing.tried],
      opened: standing.opened,
      money: moneyOf(jobState, rate),
      horizon: horizonOf(wish, keepYears, downtimeADay),
      vehicleValue: value,
      wish,
      also: alsoCompared(jobState),
      seed: SEED,
    };
    const fail = (message: string) => alive && setState({ at: "failed", message });
    thread.onerror = (e) => fail(e.message || "the thread could not be started");
    remote
      .compare(
        task,
        Comlink.proxy((share) => {
          // it comes through a channel of its own, and the last may come after the result
          if (alive) setState((now) => (now.at === "drawing" ? { at: "drawing", share } : now));
        }),
      )
      .then((found) => {
        if (!alive) return;
        setLast(found);
        setState({ at: "ready" });
      })
      .catch((error: unknown) => fail(error instanceof Error ? error.message : String(error)));
    return () => {
      alive = false;
      thread.terminate();
    };
  }, [evidence, knowledge, rate, wish, keepYears, downtimeADay, prices, value, also, round, stopped, job.unit.id]);
  return {
    last,
    state: stopped ? { at: "cancelled" } : error && !knowledge ? { at: "failed", message: error.message } : state,
    cancel: () => setStopped(true),
    again: () => {
      if (!knowledge) void refetch();
      setStopped(false);
      setRound((n) => n + 1);
    },
  };
}
