// Guards: no tick is lost between the bay and the server, none is sent before the one it may rest on, and a refusal is kept to be
// looked at.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { flushTicks, type TickSent, type WaitingTick } from "./tick-queue.ts";

const tick = (n: number, refused?: string): WaitingTick => ({
  id: `t${n}`,
  jobId: "j",
  kind: "step",
  title: `S${n}`,
  body: { step: `p/s${n}`, title: `S${n}`, minutes: 1, values: [], trouble: [], note: "", overridden: "" },
  baseSeq: 0,
  at: new Date(n * 1000).toISOString(),
  by: "iona",
  name: "Iona",
  ...(refused ? { refused } : {}),
});

async function flush(list: readonly WaitingTick[], answers: readonly TickSent[]) {
  const kept = new Map(list.map((t) => [t.id, t]));
  const asked: string[] = [];
  const { theirs, waits } = await flushTicks(
    list,
    "iona",
    async (t) => {
      asked.push(t.id);
      return answers[asked.length - 1] ?? "stored";
    },
    async (t) => void kept.set(t.id, t),
    async (id) => void kept.delete(id),
  );
  return { theirs: theirs.map((t) => t.id), waits, asked, kept };
}

describe("ticks that wait", () => {
  it("go up in their order and are forgotten once the server has them", async () => {
    expect(await flush([tick(1), tick(2)], [])).toMatchObject({ asked: ["t1", "t2"], kept: new Map() });
  });
  it("stop at a dead network: what comes after waits too", async () => {
    const { asked, kept, waits } = await flush([tick(1), tick(2), tick(3)], ["stored", "waits"]);
    expect(waits).toBe(true);
    expect((await flush([tick(1)], ["stored"])).waits).toBe(false);
    expect(asked).toEqual(["t1", "t2"]);
    expect([...kept.keys()]).toEqual(["t2", "t3"]);
  });
  it("that somebody else has done are told and forgotten", async () => {
    const { theirs, kept } = await flush([tick(1), tick(2)], ["done-already"]);
    expect(theirs).toEqual(["t1"]);
    expect(kept.size).toBe(0);
  });
  it("that are refused stay with the reason and are not sent again", async () => {
    const { kept } = await flush([tick(1), tick(2)], [{ refused: "waits for: Battery off" }]);
    expect(kept.get("t1")?.refused).toBe("waits for: Battery off");
    expect((await flush([...kept.values()], [])).asked).toEqual([]);
  });
  it("of somebody else wait for them to sign in", async () => {
    const { asked, kept } = await flush([{ ...tick(1), by: "marl", name: "Marl" }, tick(2)], []);
    expect(asked).toEqual(["t2"]);
    expect([...kept.keys()]).toEqual(["t1"]);
  });
  it("are each stored, theirs, or still here", async () => {
    const answer = fc.constantFrom<TickSent>("stored", "done-already", "waits", { refused: "x" });
    await fc.assert(
      fc.asyncProperty(fc.nat(8), fc.array(answer, { maxLength: 8 }), async (n, answers) => {
        const list = Array.from({ length: n }, (_, i) => tick(i));
        const { asked, kept } = await flush(list, answers);
        const gone = asked.filter((_, i) => ["stored", "done-already"].includes((answers[i] ?? "stored") as string));
        expect(gone.length + kept.size).toBe(n);
      }),
    );
  });
});
