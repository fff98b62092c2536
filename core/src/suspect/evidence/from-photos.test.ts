// Guards: what is marked in photos as evidence: as the same words would count, once, after what was written down.
import { expect, it } from "@jest/globals";
import { type EntryBodies, type EntryKind, foldJob } from "../../job/index.ts";
import { findContradictions, markerSigns } from "../../observe/index.ts";
import { madeEntry } from "../../testing/index.ts";
import { libraryKnowledge, libraryUnit } from "../../testing/units.ts";
import { believe, collectEvidence, SuspectModel, siftEvidence } from "../index.ts";

const unit = libraryUnit("brae-p6");
const { debris } = libraryKnowledge();
let seq = 0;
const entry = <K extends EntryKind>(kind: K, body: EntryBodies[K]) => madeEntry(++seq, kind, body);
const pan = (patch: Partial<EntryBodies["pan"]>) =>
  entry("pan", {
    ...{ drainedL: null, drainedC: null, kmSinceService: null, filter: "not-opened", sure: "sure", note: "" },
    debris: [],
    ...patch,
  });
const rung = (patch: Partial<EntryBodies["observation"]>) =>
  entry("observation", {
    ...{ rung: "connector", title: "Connector", outcome: "dry", outcomeLabel: "dry", abnormal: false, method: "" },
    ...{ sure: "sure", values: {}, minutes: 3, skipped: "", note: "" },
    ...patch,
  });
const seen = (...entries: ReturnType<typeof entry>[]) =>
  collectEvidence(unit, foldJob(entries as never), [], debris).map((e) => `${e.checkId ?? e.table}: ${e.outcome}`);

const photo = (about: EntryBodies["photo"]["about"], ...shows: (string | undefined)[]) =>
  entry("photo", {
    photoId: "00000000-0000-4000-8000-0000000000ff",
    sha256: "0",
    widthPx: 9,
    heightPx: 9,
    about,
    caption: "",
    markers: shows.map((s) => ({ x: 0.5, y: 0.5, text: "here", ...(s ? { shows: s } : {}) })),
  });
it("what is marked in a photo counts as it would in words, and once", () => {
  expect(seen(photo("magnet", "debris:brass", "debris:brass", undefined))).toEqual(["debris-brass: some"]);
  expect(seen(photo("connector", "connector:green"))).toEqual(["connector: green"]);
  // the highest wet place is where it comes from
  expect(seen(photo("leak", "leak:pan", "leak:selector"))).toEqual(["leaks: seep", "leak-place: selector"]);
  // marked as what the photo is not of, or as nothing that is known: words only
  expect(seen(photo("fluid", "debris:brass"), photo("pan", "debris:grey-paste", "debris:gold"))).toEqual([]);
});
it("what was written down goes before what is marked", () => {
  const brass = (amount: 0 | 3) => pan({ debris: [{ kind: "brass", amount, sizeMm: null }] });
  const marked = photo("pan", "debris:brass");
  expect(seen(brass(3), marked)).toEqual(["debris-brass: much"]);
  expect(seen(brass(0), marked)).toEqual(["debris-brass: none"]);
  expect(findContradictions(unit, foldJob([brass(0), marked] as never)).map((c) => c.id)).toEqual([
    "none-but-marked-brass",
  ]);
  expect(findContradictions(unit, foldJob([brass(3), marked] as never))).toEqual([]);
  const looked = rung({ rung: "connector", outcome: "dry" });
  expect(seen(looked, photo("connector", "connector:green"))).toEqual(["connector: dry"]);
  const passed = rung({ rung: "connector", outcome: "skipped", skipped: "no time" });
  expect(seen(passed, photo("connector", "connector:green"))).toEqual(["connector: green"]);
});
it("every sign that can be marked moves the odds of something", () => {
  const model = new SuspectModel(unit, libraryKnowledge());
  for (const about of ["pan", "connector", "leak"] as const)
    for (const { id } of markerSigns(about, debris)) {
      const evidence = collectEvidence(unit, foldJob([photo(about, id)] as never), [], debris);
      const { used } = siftEvidence(model, evidence);
      expect([id, used.length > 0]).toEqual([id, true]);
      const before = believe(model, []).marginals();
      const after = believe(model, used).marginals();
      expect([id, after.some((p, i) => Math.abs(p - (before[i] as number)) > 0.002)]).toEqual([id, true]);
    }
});
