// Guards: no entry is lost between the bay and the server, none is sent before the one it rests on or in another's name, and a refusal or
// somebody else's entry in its place is kept for its writer to decide.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import {
  againOf,
  baseOf,
  dropEntry,
  type EntryKeep,
  flushEntries,
  isProvisional,
  nextProvisional,
  type Sent,
  type WaitingEntry,
} from "./entry-queue.ts";

const FIRST = 1e12;
const step = (n: number, more: Partial<WaitingEntry> = {}): WaitingEntry =>
  ({
    id: `t${n}`,
    jobId: "j",
    kind: "step",
    title: `S${n}`,
    body: { step: `p/s${n}`, title: `S${n}`, minutes: 1, values: [], trouble: [], note: "", overridden: "" },
    seq: FIRST + n,
    baseSeq: 0,
    at: new Date(n * 1000).toISOString(),
    by: "iona",
    name: "Iona",
    ...more,
  }) as WaitingEntry;
const code = (n: number, baseSeq: number, more: Partial<WaitingEntry> = {}): WaitingEntry =>
  step(n, { kind: "code", body: { code: "P0730", module: "", text: "" }, baseSeq, ...more } as Partial<WaitingEntry>);

function inMemory(list: readonly WaitingEntry[]) {
  const kept = new Map(list.map((e) => [e.id, e]));
  const numbers = new Map<number, number>();
  const keep: EntryKeep = {
    list: async () => [...kept.values()].sort((a, b) => a.seq - b.seq),
    keep: async (e) => void kept.set(e.id, e),
    drop: async (id) => void kept.delete(id),
    numberOf: async (seq) => numbers.get(seq),
    setNumber: async (seq, number) => void numbers.set(seq, number),
  };
  return { kept, numbers, keep };
}

async function flush(list: readonly WaitingEntry[], answers: readonly Sent[]) {
  const memory = inMemory(list);
  const asked: [string, number][] = [];
  const { theirs, waits } = await flushEntries(
    "iona",
    async (e, baseSeq) => {
      asked.push([e.id, baseSeq]);
      return answers[asked.length - 1] ?? { seq: 10 + asked.length };
    },
    memory.keep,
  );
  return { theirs: theirs.map((t) => t.id), waits, asked, ids: asked.map(([id]) => id), ...memory };
}

describe("entries that wait", () => {
  it("go up in their order and are forgotten once the server has them", async () => {
    expect(await flush([step(2), step(1)], [])).toMatchObject({ ids: ["t1", "t2"], kept: new Map() });
  });
  it("stop at a dead network: what comes after waits too", async () => {
    const { ids, kept, waits } = await flush([step(1), step(2), step(3)], [{ seq: 4 }, "waits"]);
    expect(waits).toBe(true);
    expect((await flush([step(1)], [])).waits).toBe(false);
    expect(ids).toEqual(["t1", "t2"]);
    expect([...kept.keys()]).toEqual(["t2", "t3"]);
  });
  it("that somebody else has done are told and forgotten", async () => {
    const { theirs, kept } = await flush([step(1), step(2)], ["done-already"]);
    expect(theirs).toEqual(["t1"]);
    expect(kept.size).toBe(0);
  });
  it("that are refused stay with the reason and are not sent again", async () => {
    const { kept } = await flush([step(1), step(2)], [{ refused: "waits for: Battery off" }]);
    expect(kept.get("t1")?.refused).toBe("waits for: Battery off");
    expect((await flush([...kept.values()], [])).ids).toEqual([]);
  });
  it("of somebody else wait for them to sign in", async () => {
    const { ids, kept } = await flush([step(1, { by: "marl", name: "Marl" }), step(2)], []);
    expect(ids).toEqual(["t2"]);
    expect([...kept.keys()]).toEqual(["t1"]);
  });
  it("are based on what the one before them became on the timeline", async () => {
    const { asked, numbers } = await flush([code(1, 3), code(2, FIRST + 1)], [{ seq: 7 }, { seq: 8 }]);
    expect(asked).toEqual([
      ["t1", 3],
      ["t2", 7],
    ]);
    expect([...numbers]).toEqual([
      [FIRST + 1, 7],
      [FIRST + 2, 8],
    ]);
  });
  it("stay behind one of the same place that is stuck, and let others through", async () => {
    const met = { id: "e", seq: 9 } as never;
    const { ids, kept } = await flush([code(1, 3), code(2, FIRST + 1), step(3)], [{ theirs: met }]);
    expect(ids).toEqual(["t1", "t3"]);
    expect(kept.get("t1")?.theirs).toBe(met);
    expect(kept.has("t2")).toBe(true);
  });
  it("that speak of a photo on its way wait for it, and let others through", async () => {
    const { keep, kept } = inMemory([code(1, 0), code(2, FIRST + 1), step(3)]);
    const sent: string[] = [];
    const take = async (e: WaitingEntry) => {
      sent.push(e.id);
      return { seq: 9 };
    };
    await flushEntries("iona", take, keep, (e) => e.id === "t1");
    expect(sent).toEqual(["t3"]);
    await flushEntries("iona", take, keep);
    expect(sent).toEqual(["t3", "t1", "t2"]);
    expect(kept.size).toBe(0);
  });
  it("rest on what a dropped one rested on", async () => {
    const { keep, kept } = inMemory([code(1, 3), code(2, FIRST + 1)]);
    await dropEntry(code(1, 3), keep);
    expect([...kept.values()].map((e) => [e.id, e.baseSeq])).toEqual([["t2", 3]]);
  });
  it("go up again over what stands there, or as they were", () => {
    expect(againOf(code(1, 3, { theirs: { seq: 9 } as never }))).toMatchObject({ baseSeq: 9 });
    expect(againOf(code(1, 3, { theirs: "taken back" }))).toMatchObject({ baseSeq: 0 });
    expect(againOf(code(1, 3, { refused: "x" }))).toEqual(code(1, 3));
  });
  it("are each stored, theirs, or still here", async () => {
    const answer = fc.constantFrom<Sent>({ seq: 5 }, "done-already", "waits", { refused: "x" });
    await fc.assert(
      fc.asyncProperty(fc.nat(8), fc.array(answer, { maxLength: 8 }), async (n, answers) => {
        const list = Array.from({ length: n }, (_, i) => step(i));
        const { ids, kept } = await flush(list, answers);
        const gone = ids.filter((_, i) => {
          const sent = answers[i] ?? { seq: 1 };
          return sent === "done-already" || (typeof sent === "object" && "seq" in sent);
        });
        expect(gone.length + kept.size).toBe(n);
      }),
    );
  });
});

describe("numbers that stand in for a place on the timeline", () => {
  it("are told from those of a timeline, and never taken twice", () => {
    expect([isProvisional(FIRST - 1), isProvisional(FIRST)]).toEqual([false, true]);
    expect(nextProvisional([], FIRST + 5)).toBe(FIRST + 5);
    expect(nextProvisional([step(5)], FIRST + 5)).toBe(FIRST + 6);
    expect(nextProvisional([step(9)], FIRST + 5)).toBe(FIRST + 10);
  });
  it("become what they were stored as; one that waits has no base yet, one that never went is nothing", async () => {
    const { keep } = inMemory([]);
    await keep.setNumber(FIRST + 1, 7);
    expect(await baseOf(4, [], keep)).toBe(4);
    expect(await baseOf(FIRST + 1, [], keep)).toBe(7);
    expect(await baseOf(FIRST + 2, [step(2)], keep)).toBeUndefined();
    expect(await baseOf(FIRST + 3, [step(2)], keep)).toBe(0);
  });
});
