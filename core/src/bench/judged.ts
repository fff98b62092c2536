import type { BenchValue, EntryBodies, EntryOf } from "../job/index.ts";
import type { Uncertain } from "../measure/index.ts";
import { readValue, type Verdict, verdictOf } from "./reading.ts";

export type BenchBody = EntryBodies["bench"];

/** Mean and uncertainty of a value as it was stored. */
export const meanValue = (v: BenchValue): Uncertain => readValue(v.readings, v, v.temperatureC);

/** A stored value against the window that it was held against. */
export const judgedValue = (v: BenchValue): Verdict => verdictOf(meanValue(v), { from: v.from, to: v.to });

/** A value of a place by its id. */
export function benchValue(body: Pick<BenchBody, "values"> | undefined, id: string): Uncertain | undefined {
  const v = body?.values.find((x) => x.id === id);
  return v && meanValue(v);
}

/** Pass, fail or open of what stands at a place: one failing thing fails it, one too close to call leaves it open. */
export function placeState(body: Pick<BenchBody, "values" | "looks">): "pass" | "fail" | "open" {
  const calls = body.values.map((v) => judgedValue(v).call);
  if (calls.includes("out") || body.looks.some((l) => l.pass === false)) return "fail";
  if (calls.includes("close") || (body.values.length === 0 && body.looks.length === 0)) return "open";
  return "pass";
}

/** Who measured a value first as it stands now: an unchanged value stays whose it was, whoever stored the place since. */
export function authorsOf(
  versions: readonly EntryOf<"bench">[],
): ReadonlyMap<string, { readonly author: string; readonly at: string }> {
  const authors = new Map<string, { author: string; at: string; key: string }>();
  for (const { author, at, body } of [...versions].sort((a, b) => a.seq - b.seq)) {
    const now = new Map<string, string>();
    for (const v of body.values) now.set(v.id, JSON.stringify([v.readings, v.instrument, v.temperatureC]));
    for (const l of body.looks) now.set(`look ${l.id}`, l.outcome);
    for (const c of body.chosen) now.set(`part ${c.id}`, JSON.stringify([c.sizeMm, c.quantity]));
    for (const id of authors.keys()) if (!now.has(id)) authors.delete(id);
    for (const [id, key] of now) if (authors.get(id)?.key !== key) authors.set(id, { author, at, key });
  }
  return authors;
}
