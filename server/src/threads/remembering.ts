import { createHash } from "node:crypto";

const KEPT = 60;

/** What was just asked is not computed again; what is computed stops when nobody waits for it any more. */
export function remembering<Task, T>(
  judge: (task: Task, signal?: AbortSignal) => Promise<T>,
): (task: Task, signal?: AbortSignal) => Promise<T> {
  const known = new Map<string, { result: Promise<T>; waiting: number; settled: boolean; stop: AbortController }>();
  const begin = (key: string, task: Task) => {
    const stop = new AbortController();
    const asked = { result: judge(task, stop.signal), waiting: 0, settled: false, stop };
    asked.result.then(
      () => {
        asked.settled = true;
      },
      () => {
        asked.settled = true;
        if (known.get(key) === asked) known.delete(key);
      },
    );
    if (known.size >= KEPT) known.delete(known.keys().next().value as string);
    known.set(key, asked);
    return asked;
  };
  return (task, signal) => {
    const key = createHash("sha256").update(JSON.stringify(task)).digest("hex");
    const asked = known.get(key) ?? begin(key, task);
    asked.waiting += 1;
    return new Promise<T>((resolve, reject) => {
      const leave = () => {
        asked.waiting -= 1;
        if (asked.waiting === 0 && !asked.settled) {
          if (known.get(key) === asked) known.delete(key);
          asked.stop.abort();
        }
        reject(signal?.reason);
      };
      if (signal?.aborted) leave();
      signal?.addEventListener("abort", leave, { once: true });
      asked.result.then(resolve, reject).finally(() => signal?.removeEventListener("abort", leave));
    });
  };
}
