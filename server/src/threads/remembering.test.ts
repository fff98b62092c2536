// Guards: one judgement is computed once for all who ask, ends when the last of them has gone, and a failure is not kept.
import { expect, it } from "@jest/globals";
import type { JudgeTask } from "../judgement/judge-thread.ts";
import { remembering } from "./remembering.ts";

const task = (of: string) => ({ unit: { id: of } }) as unknown as JudgeTask;

/** A judge that waits until it is told, and hears when nobody waits for it. */
function slowJudge() {
  const runs: { of: string; signal: AbortSignal | undefined; finish: (n: number) => void; fail: () => void }[] = [];
  const judge = remembering<JudgeTask, number>(
    (t, signal) =>
      new Promise((resolve, reject) => {
        runs.push({ of: t.unit.id, signal, finish: resolve, fail: () => reject(new Error("no")) });
        signal?.addEventListener("abort", () => reject(new Error("stopped")));
      }),
  );
  return { runs, judge };
}

it("is computed once for several who ask, and kept", async () => {
  const { runs, judge } = slowJudge();
  const both = Promise.all([judge(task("a")), judge(task("a"))]);
  expect(runs).toHaveLength(1);
  runs[0]?.finish(7);
  expect(await both).toEqual([7, 7]);
  expect(await judge(task("a"))).toBe(7);
  expect(runs).toHaveLength(1);
  judge(task("b")).catch(() => undefined);
  expect(runs.map((r) => r.of)).toEqual(["a", "b"]);
});

it("goes on while one of two still waits, and ends with the last; who asks then has it computed anew", async () => {
  const { runs, judge } = slowJudge();
  const [first, second] = [new AbortController(), new AbortController()];
  const one = judge(task("a"), first.signal);
  const two = judge(task("a"), second.signal);
  first.abort();
  await expect(one).rejects.toThrow(/abort/i);
  expect(runs[0]?.signal?.aborted).toBe(false);
  second.abort();
  await expect(two).rejects.toThrow(/abort/i);
  expect(runs[0]?.signal?.aborted).toBe(true);
  const three = judge(task("a"));
  expect(runs).toHaveLength(2);
  runs[1]?.finish(3);
  expect(await three).toBe(3);
});

it("one who had gone before asking stops what nobody else waits for", async () => {
  const { runs, judge } = slowJudge();
  await expect(judge(task("a"), AbortSignal.abort())).rejects.toThrow(/abort/i);
  expect(runs[0]?.signal?.aborted).toBe(true);
});

it("a failure is told to all who wait and computed anew for the next", async () => {
  const { runs, judge } = slowJudge();
  const both = Promise.allSettled([judge(task("a")), judge(task("a"))]);
  runs[0]?.fail();
  expect((await both).map((r) => r.status)).toEqual(["rejected", "rejected"]);
  const next = judge(task("a"));
  runs[1]?.finish(1);
  expect(await next).toBe(1);
});
