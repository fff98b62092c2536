// Guards: no photo is lost between the camera and the server: order, a dead network, a refusal.
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { flushPhotos, type Sent, type WaitingPhoto } from "./photo-queue.ts";

const photo = (n: number, refused?: string): WaitingPhoto => ({
  photoId: `p${n}`,
  jobId: "j",
  about: "pan",
  caption: "",
  file: new Blob(),
  takenAt: new Date(n * 1000).toISOString(),
  by: "iona",
  name: "Iona",
  ...(refused ? { refused } : {}),
});

async function flush(list: readonly WaitingPhoto[], answers: readonly Sent[]) {
  const kept = new Map(list.map((p) => [p.photoId, p]));
  const asked: string[] = [];
  const { stored, waits } = await flushPhotos(
    list,
    "iona",
    async (p) => {
      asked.push(p.photoId);
      return answers[asked.length - 1] ?? "stored";
    },
    async (p) => void kept.set(p.photoId, p),
    async (id) => void kept.delete(id),
  );
  return { stored, waits, asked, kept };
}

describe("photos that wait", () => {
  it("go up in order and are forgotten once the server has them", async () => {
    const { stored, asked, kept } = await flush([photo(1), photo(2)], []);
    expect([stored, asked, kept.size]).toEqual([2, ["p1", "p2"], 0]);
  });
  it("stop at a dead network: what was not sent waits on", async () => {
    const { stored, waits, asked, kept } = await flush([photo(1), photo(2), photo(3)], ["stored", "waits"]);
    expect([stored, waits, asked]).toEqual([1, true, ["p1", "p2"]]);
    expect((await flush([photo(1)], [])).waits).toBe(false);
    expect([...kept.keys()]).toEqual(["p2", "p3"]);
  });
  it("a refused one is kept with its reason, lets the next through and is not sent again", async () => {
    const { asked, kept } = await flush([photo(1), photo(2)], [{ refused: "no picture" }]);
    expect(asked).toEqual(["p1", "p2"]);
    expect(kept.get("p1")?.refused).toBe("no picture");
    const again = await flush([...kept.values()], []);
    expect(again.asked).toEqual([]);
  });
  it("go up in nobody else's name", async () => {
    const { asked, kept } = await flush([{ ...photo(1), by: "marl", name: "Marl" }, photo(2)], []);
    expect([asked, [...kept.keys()]]).toEqual([["p2"], ["p1"]]);
  });
  it("every photo is either stored or still here", async () => {
    const answer = fc.oneof(
      fc.constant<Sent>("stored"),
      fc.constant<Sent>("waits"),
      fc.constant<Sent>({ refused: "x" }),
    );
    await fc.assert(
      fc.asyncProperty(fc.nat(8), fc.array(answer, { maxLength: 8 }), async (n, answers) => {
        const list = Array.from({ length: n }, (_, i) => photo(i));
        const { stored, kept } = await flush(list, answers);
        expect(stored + kept.size).toBe(n);
      }),
    );
  });
});
