// Guards: whatever stands in the columns of a log, no result holds NaN or infinity: it is left out, or refused by name.
import { analyseDrive } from "@gearsense/core/drive";
import { buildRecording, InputError, openLog, proposeMapping } from "@gearsense/core/log";
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { PLAIN_STYLE, simulateDrive, writeLog } from "./index.ts";
import { load } from "./testing/units.ts";

const logs = ["brae-p6", "machair-d6"].map((id) => {
  const unit = load(id);
  const { columns } = simulateDrive({
    unit,
    seed: 3,
    durationS: 90,
    profile: "mixed",
    rateHz: 20,
    faults: [{ kind: "misfire" }],
  });
  return { unit, lines: writeLog(columns, PLAIN_STYLE).trim().split("\n") };
});

const share = fc.double({ min: 0, max: 1, noNaN: true });
/** What a scan tool, a spreadsheet or a hand may leave in a cell. */
const cell = fc.constantFrom("", "NaN", "-", "inf", "1e308", "-1e308", "0", "65535", "-40", "n/a", "1;5");
const change = fc.record({
  what: fc.constantFrom("span of a column", "scattered cells", "rows cut", "other scale", "column gone"),
  column: share,
  from: share,
  length: share,
  cell,
  scale: fc.double({ min: -5, max: 5, noNaN: true }),
});
type Change = typeof change extends fc.Arbitrary<infer C> ? C : never;

function changed(rows: string[][], c: Change): string[][] {
  const last = (rows[0]?.length ?? 2) - 1;
  const at = 1 + Math.min(last - 1, Math.floor(c.column * last));
  const from = 1 + Math.floor(c.from * (rows.length - 1));
  const to = Math.min(rows.length, from + Math.ceil(c.length * c.length * rows.length));
  const within = (i: number) => i >= from && i < to;
  const cells = (is: (i: number) => boolean, value: (old: string) => string) =>
    rows.map((r, i) => (i > 0 && is(i) ? r.map((v, k) => (k === at ? value(v) : v)) : r));
  switch (c.what) {
    case "span of a column":
      return cells(within, () => c.cell);
    case "scattered cells":
      return cells(
        (i) => (i * 7919) % 19 === from % 19,
        () => c.cell,
      );
    case "rows cut":
      return rows.filter((_, i) => i === 0 || !within(i));
    case "other scale":
      return cells(
        () => true,
        (v) => String(Number(v) * c.scale),
      );
    case "column gone":
      return rows.map((r) => r.filter((_, k) => k !== at));
  }
}

/** Paths of numbers that are none. */
const broken = (x: unknown, path = ""): string[] => {
  if (typeof x === "number") return Number.isFinite(x) ? [] : [`${path} = ${x}`];
  return x !== null && typeof x === "object" ? Object.entries(x).flatMap(([k, v]) => broken(v, `${path}.${k}`)) : [];
};

describe("a log that was tampered with", () => {
  it("gives numbers or nothing, or is refused with a sentence", () => {
    fc.assert(
      fc.property(fc.nat(logs.length - 1), fc.array(change, { minLength: 1, maxLength: 4 }), (n, changes) => {
        const { unit, lines } = logs[n] as (typeof logs)[number];
        const rows = changes.reduce(
          changed,
          lines.map((l) => l.split(",")),
        );
        try {
          const { table } = openLog(new TextEncoder().encode(rows.map((r) => r.join(",")).join("\n")));
          const analysis = analyseDrive(buildRecording(table, proposeMapping(table, unit)), unit);
          expect(broken(analysis)).toEqual([]);
        } catch (error) {
          if (!(error instanceof InputError)) throw error;
          expect(error.message.length).toBeGreaterThan(20);
        }
      }),
      { numRuns: 150 },
    );
  });
});
