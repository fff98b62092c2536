// Guards: every hazard of a check, a quick check or a repair has its caution, and those that need a tick are holds.
import { describe, expect, it } from "@jest/globals";
import { PROCEDURES } from "../procedure/testing/library.ts";
import { libraryKnowledge } from "../testing/units.ts";

const knowledge = libraryKnowledge();

interface Step {
  readonly id: string;
  readonly says: string;
  readonly access: string;
  readonly cautions: readonly string[];
}
const steps: Step[] = [
  ...knowledge.checks.map((c) => ({
    id: `check ${c.id}`,
    says: `${c.title}. ${c.how} ${c.needs.join("; ")}`,
    access: c.intrusiveness,
    cautions: c.cautions,
  })),
  ...knowledge.rungs.map((r) => ({
    id: `quick check ${r.id}`,
    says: `${r.title}. ${r.how}`,
    access: "",
    cautions: r.cautions,
  })),
  ...knowledge.repairs.map((r) => ({
    id: `repair ${r.id}`,
    says: r.title,
    access: r.intrusiveness,
    cautions: r.cautions,
  })),
];

/** What a step says, or how far it opens the vehicle, against the cautions that it must have. */
const HAZARDS: readonly (readonly [hazard: string, of: (s: Step) => boolean, needs: readonly string[]])[] = [
  [
    "full pedal against the brake",
    (s) => /full pedal until|brake-torqued|[Ss]tall speed/.test(s.says),
    ["stall-test", "loaded-vehicle"],
  ],
  [
    "in gear against the brake, or load changes that are watched",
    (s) =>
      /against the brake|on the brake[^.]*: ?.*\bD\b|Pedal on and off|N to D/.test(s.says) &&
      !/engine off/.test(s.says),
    ["loaded-vehicle"],
  ],
  ["run on stands", (s) => /\bon stands\b/.test(s.says), ["running-on-stands"]],
  [
    "a lamp or jumper as load",
    (s) =>
      /\d W lamp|jumper|under load$|under load\./.test(s.says) &&
      /supply|ground|pin/i.test(s.says) &&
      !/Timed|engine at load/.test(s.says),
    ["test-lamp"],
  ],
  ["the engine turned by hand", (s) => /flexplate, turn by hand/.test(s.says), ["turning-engine"]],
  ["cutting", (s) => /\bcut open\b|Cut it open/.test(s.says), ["cutting"]],
  [
    "an accumulator or a pump that stores pressure opened",
    (s) => /^(?:Renew the accumulator|Accumulator covers|Replace hydraulic pump)/.test(s.says),
    ["stored-pressure"],
  ],
  [
    "harness or control unit",
    (s) => /^Repair \{name\}|Replace the control unit|harness bent/.test(s.says),
    ["battery-off"],
  ],
  [
    "fluid let out",
    (s) => /[Rr]enew (?:fluid|the fluid)|fill to level|Set the fluid level|Pan down/.test(s.says),
    ["hot-drain"],
  ],
  ["under the vehicle", (s) => s.access === "under vehicle", ["under-vehicle"]],
  ["the pan comes down", (s) => s.access === "pan down", ["under-vehicle", "hot-drain"]],
  [
    "the valve body comes out",
    (s) => s.access === "valve body out",
    ["under-vehicle", "hot-drain", "stored-pressure", "springs"],
  ],
  [
    "the unit comes out",
    (s) => s.access === "unit out",
    ["lifting", "unit-down", "battery-off", "turning-engine", "hot-drain"],
  ],
  [
    "driven with a fault to find it",
    (s) => /reproduced cold and hot|Every gear held/.test(s.says),
    ["limp-home", "road-test"],
  ],
];

describe("cautions of the library", () => {
  it.each(HAZARDS)("%s: each step that does it says so before it", (_, of, needs) => {
    const found = steps.filter(of);
    expect(found.length).toBeGreaterThan(0);
    for (const s of found) expect([s.id, needs.filter((n) => !s.cautions.includes(n))]).toEqual([s.id, []]);
  });
  it("what can hurt at once needs a tick", () => {
    expect([...knowledge.holds].sort()).toEqual([
      "battery-off",
      "drive-recorder",
      "hot-drain",
      "relearn-standing",
      "running-on-stands",
      "stall-test",
      "stored-pressure",
      "test-lamp",
      "turning-engine",
      "unit-down",
    ]);
  });
  it("nobody is asked to watch from beside a vehicle that is loaded or driven", () => {
    for (const s of steps)
      expect([s.id, /watch(?:es|ing)? from the side|stands beside/.test(s.says)]).toEqual([s.id, false]);
  });
  it("no caution stands unused", () => {
    const used = new Set([
      // before a drive is recorded
      "drive-recorder",
      // before a control unit learns standing
      "relearn-standing",
      ...steps.flatMap((s) => s.cautions),
      ...PROCEDURES.flatMap((p) => p.steps.flatMap((s) => s.cautions ?? [])),
    ]);
    expect(Object.keys(knowledge.cautions).filter((c) => !used.has(c))).toEqual([]);
  });
});
