// Guards: an element that answers late is told by its own shifts and bands; usual times leave a sound unit "as usual".
import { describe, expect, it } from "@jest/globals";
import fc from "fast-check";
import { libraryUnit } from "../../testing/units.ts";
import { elementsIn, type Unit } from "../../unit/index.ts";
import type { AnalysedLog } from "../analysis.ts";
import type { DriveEvidence } from "../measure.ts";
import { timings, usualTimes } from "./timing.ts";

const base = libraryUnit("brae-p6");
const gears = base.gears.map((g) => g.name).filter((g) => g !== "R");
const shiftsUp = gears.slice(1).map((to, i) => [gears[i] as string, to] as const);
const onComing = (from: string, to: string) => elementsIn(base, to).filter((e) => !elementsIn(base, from).includes(e));
const offGoing = (from: string, to: string) => onComing(to, from);

interface Drive {
  readonly fluidC?: number;
  readonly delayS?: (from: string, to: string, n: number) => number;
  readonly inertiaS?: (from: string, to: string) => number;
  readonly engageS?: Partial<Record<"D" | "R", number | undefined>>;
  readonly slips?: string;
  readonly limpS?: number;
  readonly rateHz?: number;
  readonly ripples?: boolean;
}

/** Each upshift twice. */
function log(d: Drive = {}): AnalysedLog {
  const { fluidC = 80, delayS = () => 0.2, inertiaS = () => 0.3, engageS = { D: 0.3, R: 0.4 } } = d;
  const shifts = [0, 1].flatMap((n) =>
    shiftsUp.map(([from, to], i) => ({
      name: `${from}-${to}`,
      from,
      to,
      commandS: 10 * i + 100 * n,
      fluidC,
      underPower: true,
      completed: true,
      measured: true,
      delayS: delayS(from, to, n),
      inertiaS: inertiaS(from, to),
    })),
  );
  const engagements = (["D", "R"] as const).map((range) => ({ range, commandS: 0, delayS: engageS[range], fluidC }));
  const findings = [
    ...(d.slips ? [{ kind: "slip", subject: { gear: d.slips }, conditions: { gears: [d.slips] } }] : []),
    ...(d.ripples ? [{ kind: "sensor-ripple", subject: {}, severity: "fault", conditions: { gears: [] } }] : []),
  ];
  const analysis = {
    rateHz: d.rateHz ?? 20,
    shifts,
    engagements,
    findings,
    held: { gears: [] },
    limp: d.limpS === undefined ? undefined : { startS: d.limpS },
  };
  return { logId: "a", entryId: "entry", analysis } as unknown as AnalysedLog;
}

const cold = { fluidC: 20 };
const unit: Unit = { ...base, usual: usualTimes([log(), log(cold)], 1) };
const of = (list: readonly DriveEvidence[], table: string, subject: string) =>
  list.find((e) => e.table === table && (e.subject.component ?? e.subject.gear) === subject)?.outcome;
const [from, to] = shiftsUp[1] as readonly [string, string];
const [element] = onComing(from, to) as [string];
const [released] = offGoing(from, to) as [string];
const late = (byS: number) => (a: string, b: string) => 0.2 + (onComing(a, b).includes(element) ? byS : 0);

describe("usual times", () => {
  it("are the medians of sound drives, cold and warm apart", () => {
    const many = [0.1, 0.2, 0.25].flatMap((s) => [
      log({ delayS: () => s }),
      log({ ...cold, delayS: () => s + 0.1, engageS: { D: s, R: undefined } }),
    ]);
    const { shifts, engagements } = usualTimes(many, 3);
    expect(shifts?.[`${from}-${to}`]).toEqual({
      delay: { coldS: 0.3, warmS: 0.2 },
      inertia: { coldS: 0.3, warmS: 0.3 },
    });
    expect(engagements?.D).toEqual({ coldS: 0.2, warmS: 0.3 });
    expect(engagements?.R?.coldS).toBeUndefined();
  });
  it("state nothing of too few readings", () => {
    expect(usualTimes([log()], 3)).toEqual({ shifts: {}, engagements: {} });
  });
  it.each([
    [0.349, 0.2],
    [0.351, undefined],
  ])("of which the middle half reaches from 0.15 to %d s around 0.2 s: %p", (upperS, stated) => {
    const many = [0.1, 0.15, 0.2, upperS, 0.5].map((s) => log({ delayS: () => s }));
    expect(usualTimes(many, 3).shifts?.[`${from}-${to}`]?.delay?.warmS).toBe(stated);
  });
});

describe("how soon elements answer", () => {
  it("a drive like those the usual times were taken from is as usual everywhere", () => {
    const list = timings(unit, [log(), log(cold)]);
    expect(new Set(list.map((e) => e.outcome))).toEqual(new Set(["usual"]));
    expect(list.some((e) => e.abnormal)).toBe(false);
    expect(of(list, "delay-cold", element)).toBe("usual");
    expect(of(list, "engage-warm", "R")).toBe("usual");
  });
  it("a common shift of all times by less than the spread of sound units changes nothing", () => {
    fc.assert(
      fc.property(fc.double({ min: -0.018, max: 0.018, noNaN: true }), (byS) => {
        const drive = log({ delayS: () => 0.2 + byS, inertiaS: () => 0.3 + byS });
        expect(timings(unit, [drive]).every((e) => e.outcome === "usual")).toBe(true);
      }),
    );
  });
  it("all inertia phases longer or shorter by one share, up to three tenths, are the aim of the controller", () => {
    const takes = (share: number) => (a: string, b: string) => share * (a === from && b === to ? 0.5 : 0.3);
    const own = { ...unit, usual: usualTimes([log({ inertiaS: takes(1) })], 1) };
    const outcomes = (share: number) =>
      timings(own, [log({ inertiaS: takes(share) })])
        .filter((e) => e.table === "inertia-warm")
        .map((e) => e.outcome);
    for (const share of [0.75, 1, 1.25, 1.29]) expect(new Set(outcomes(share))).toEqual(new Set(["usual"]));
    // beyond it, by 0.3 · 0.5 s of the longest
    expect(outcomes(1.6)).toContain("long");
    expect(outcomes(1.5)).not.toContain("usual");
  });
  it("later never reads as earlier", () => {
    const order = ["early", "usual", "later", "late", "very-late"];
    fc.assert(
      fc.property(
        fc.double({ min: -0.15, max: 0.6, noNaN: true }),
        fc.double({ min: 0, max: 0.6, noNaN: true }),
        (a, more) => {
          const read = (byS: number) => of(timings(unit, [log({ delayS: late(byS) })]), "delay-warm", element) ?? "";
          expect(order.indexOf(read(a + more))).toBeGreaterThanOrEqual(order.indexOf(read(a)));
        },
      ),
    );
  });
  it("an element that answers 0.12 s later than usual is named, with its band; the others are not", () => {
    const list = timings(unit, [log({ delayS: late(0.12) }), log(cold)]);
    expect(of(list, "delay-warm", element)).toBe("late");
    expect(of(list, "delay-cold", element)).toBe("usual");
    const others = list.filter((e) => e.table === "delay-warm" && e.subject.component !== element);
    expect(others.length).toBeGreaterThan(1);
    for (const e of others) expect(e.outcome).toBe("usual");
  });
  it("what lets go late shows at the element that is released", () => {
    const drags = log({ delayS: (a, b) => 0.2 + (offGoing(a, b).includes(released) ? 0.3 : 0) });
    expect(of(timings(unit, [drags]), "delay-release", released)).toBe("very-late");
  });
  it("a shift whose on-coming element is late is told by that one alone", () => {
    const list = timings(unit, [log({ delayS: late(0.3) })]);
    expect(of(list, "delay-warm", element)).toBe("very-late");
    expect(list.filter((e) => e.table === "delay-release").map((e) => e.outcome)).not.toContain("very-late");
  });
  it("an engagement that never comes is very late; one quicker than usual is early", () => {
    const list = timings(unit, [log({ engageS: { D: undefined, R: 0.1 } })]);
    expect(of(list, "engage-warm", "1")).toBe("very-late");
    expect(of(list, "engage-warm", "R")).toBe("early");
  });
  it("nothing is said of slow logs, doubtful speeds, one single shift, or limp mode", () => {
    expect(timings(unit, [log({ rateHz: 5 })])).toEqual([]);
    expect(timings(unit, [log({ ripples: true })])).toEqual([]);
    expect(timings(unit, [log({ limpS: 0 })])).toEqual([]);
    const [first] = onComing(...(shiftsUp[0] as readonly [string, string]));
    const once = timings(unit, [log({ limpS: 5 })]);
    expect(once.length).toBeGreaterThan(0);
    expect(of(once, "delay-warm", first as string)).toBeUndefined();
  });
  it("a shift out of a gear that slips has begun already: it is left out", () => {
    const drive = log({ delayS: (a) => (a === from ? 0 : 0.2), slips: from });
    const list = timings(unit, [drive]);
    const left = shiftsUp.filter(([a, b]) => a !== from && onComing(a, b).includes(element));
    expect(of(list, "delay-warm", element)).toBe(left.length > 0 ? "usual" : undefined);
  });
  describe("without usual times in the unit file", () => {
    const plain = { ...base, usual: undefined };
    /** A shift that is the only one to apply, or to release, some element. */
    const only = (moves: typeof onComing) =>
      shiftsUp.flatMap(([a, b]) =>
        moves(a, b)
          .filter((id) => shiftsUp.every(([x, y]) => x === a || !moves(x, y).includes(id)))
          .map((id) => ({ from: a, id })),
      )[0] as { from: string; id: string };
    it("engagements are held against the limit, and sound shifts answer like each other", () => {
      const list = timings(plain, [log({ engageS: { D: 2.5, R: 0.4 } })]);
      expect(list.filter((e) => e.table.startsWith("engage")).map((e) => [e.subject.gear, e.outcome])).toEqual([
        ["1", "very-late"],
        ["R", "usual"],
      ]);
      expect(new Set(list.filter((e) => !e.table.startsWith("engage")).map((e) => e.outcome))).toEqual(
        new Set(["usual"]),
      );
    });
    it.each([
      [0.06, "usual"],
      [0.09, "usual"],
      [0.1, "later"],
      [0.4, "very-late"],
    ])("a shift that answers %s s after the others: %s", (excessS, outcome) => {
      for (const [moves, table] of [
        [onComing, "delay-warm"],
        [offGoing, "delay-release"],
      ] as const) {
        const { from: at, id } = only(moves);
        expect(of(timings(plain, [log({ delayS: (a) => (a === at ? 0.2 + excessS : 0.2) })]), table, id)).toBe(outcome);
      }
    });
    it("an element that answers in time in one of its shifts is not late", () => {
      const twice = plain.elements.find((e) => shiftsUp.filter(([a, b]) => onComing(a, b).includes(e.id)).length > 1);
      if (!twice) return expect(plain.elements.length).toBeGreaterThan(0);
      const [one] = shiftsUp.filter(([a, b]) => onComing(a, b).includes(twice.id));
      const list = timings(plain, [log({ delayS: (a) => (a === one?.[0] ? 0.6 : 0.2) })]);
      return expect(of(list, "delay-warm", twice.id)).toBe("usual");
    });
  });
});
