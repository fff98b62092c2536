import { inSentence, type Net, type Unit } from "../unit/index.ts";

/** What is known of a sensor or solenoid, and by what. */
export interface Known {
  readonly component: string;
  readonly state: "works" | "dead";
  readonly because: string;
  readonly entryId: string;
}

/** A reading that was made at a part or net. */
export interface Measured {
  readonly subject: string;
  readonly good: boolean;
  readonly because: string;
  readonly entryId: string;
}

export type SegmentState = "cleared" | "bad" | "suspect" | "open";

/** A piece of a circuit that can break by itself: a part, the shared trunk of a net, its branch to one part. */
export interface Segment {
  readonly id: string;
  readonly kind: "part" | "trunk" | "branch";
  readonly net: string | undefined;
  readonly component: string | undefined;
  readonly title: string;
  /** cleared: what works needs it, or it was measured; suspect: left when everything that is dead is explained */
  readonly state: SegmentState;
  readonly because: string;
  readonly entryId: string | undefined;
  /** dead parts that it alone would explain */
  readonly explains: readonly string[];
}

/** What to touch next, and what to see. */
export interface Reading {
  /** check of the catalogue under which it is recorded */
  readonly checkId: string;
  readonly title: string;
  /** red lead, black lead; a second that is empty: what to do instead of measuring */
  readonly touch: readonly [string, string];
  readonly expect: string;
  readonly condition: string;
  /** suspects that a good reading clears, and that a bad one leaves */
  readonly clears: readonly string[];
  readonly leaves: readonly string[];
}

export interface CircuitPicture {
  readonly dead: readonly Known[];
  readonly works: readonly Known[];
  readonly segments: readonly Segment[];
  /** in the order in which they halve what is left */
  readonly readings: readonly Reading[];
  /** in a sentence */
  readonly verdict: string;
}

const KIND_WEIGHT = { part: 1.3, trunk: 0.6, branch: 0.5 } as const;
/** A wire of its own breaks more often than a branch. */
const OWN_WIRE = 0.9;

const netsOf = (unit: Unit, component: string) => unit.nets.filter((n) => n.connects.includes(component));
const partName = (unit: Unit, id: string) =>
  unit.sensors.find((s) => s.id === id)?.name ?? unit.solenoids.find((s) => s.id === id)?.name ?? id;

interface Piece {
  readonly id: string;
  readonly kind: Segment["kind"];
  readonly net: Net | undefined;
  readonly component: string | undefined;
  readonly title: string;
  readonly weight: number;
}

/** The pieces that a part needs: itself, and trunk and branch of each of its nets. */
function piecesOf(unit: Unit, component: string): Piece[] {
  const name = partName(unit, component);
  const own: Piece = {
    id: `part:${component}`,
    kind: "part",
    net: undefined,
    component,
    title: name,
    weight: KIND_WEIGHT.part,
  };
  return [
    own,
    ...netsOf(unit, component).flatMap((net): Piece[] => {
      const trunk: Piece = {
        id: `trunk:${net.id}`,
        kind: "trunk",
        net,
        component: undefined,
        title: net.name,
        weight: net.connects.length === 1 ? OWN_WIRE : KIND_WEIGHT.trunk,
      };
      if (net.connects.length === 1) return [trunk];
      return [
        trunk,
        {
          id: `branch:${net.id}:${component}`,
          kind: "branch",
          net,
          component,
          title: `${net.name}, branch to ${inSentence(name)}`,
          weight: KIND_WEIGHT.branch,
        },
      ];
    }),
  ];
}

/**
 * Elimination in the wiring of what is dead: what works clears its whole path; a net that was measured good is cleared, a
 * part likewise; among what is left, the pieces that explain every dead part come first, since two breaks at once are rare.
 * @param known - parts that work or are dead; the rest is unknown and clears nothing
 * @returns undefined when nothing is dead
 */
export function readCircuit(
  unit: Unit,
  known: readonly Known[],
  measured: readonly Measured[],
): CircuitPicture | undefined {
  const dead = known.filter((k) => k.state === "dead" && netsOf(unit, k.component).length > 0);
  if (dead.length === 0) return undefined;
  const works = known.filter((k) => k.state === "works" && !dead.some((d) => d.component === k.component));
  const pieces = new Map<string, Piece>();
  const needs = new Map<string, Set<string>>();
  for (const d of dead) {
    for (const p of piecesOf(unit, d.component)) {
      pieces.set(p.id, p);
      const list = needs.get(p.id) ?? new Set();
      needs.set(p.id, list.add(d.component));
    }
  }
  const clearedBy = new Map<string, { because: string; entryId: string }>();
  const badBy = new Map<string, { because: string; entryId: string }>();
  for (const w of works)
    for (const p of piecesOf(unit, w.component))
      if (pieces.has(p.id))
        clearedBy.set(p.id, { because: `${partName(unit, w.component)} works through it`, entryId: w.entryId });
  for (const m of measured) {
    for (const p of pieces.values()) {
      const about = p.kind === "part" ? p.component === m.subject : p.net?.id === m.subject;
      if (!about) continue;
      // a bad reading of a net does not tell the branch from the trunk, where a sibling works through the trunk
      if (m.good) clearedBy.set(p.id, m);
      else if (!clearedBy.has(p.id)) badBy.set(p.id, m);
    }
  }
  const left = [...pieces.values()].filter((p) => !clearedBy.has(p.id));
  const most = Math.max(0, ...left.map((p) => needs.get(p.id)?.size ?? 0));
  const bad = left.filter((p) => badBy.has(p.id));
  const suspects = new Set(
    (bad.length > 0 ? bad : left.filter((p) => (needs.get(p.id)?.size ?? 0) === most)).map((p) => p.id),
  );
  const segments = [...pieces.values()].map((p): Segment => {
    const cleared = clearedBy.get(p.id);
    const measuredBad = badBy.get(p.id);
    const explains = [...(needs.get(p.id) ?? [])];
    const state: SegmentState = cleared ? "cleared" : measuredBad ? "bad" : suspects.has(p.id) ? "suspect" : "open";
    return {
      id: p.id,
      kind: p.kind,
      net: p.net?.id,
      component: p.component,
      title: p.title,
      state,
      because:
        cleared?.because ??
        measuredBad?.because ??
        (state === "suspect"
          ? dead.length === 1
            ? "nothing that works depends on it"
            : `explains ${explains.length === dead.length ? "all" : explains.length} of the ${dead.length} that are dead`
          : "would explain only a part of what is dead"),
      entryId: cleared?.entryId ?? measuredBad?.entryId,
      explains,
    };
  });
  const open = left.filter((p) => suspects.has(p.id));
  return {
    dead,
    works,
    segments,
    readings: readingsFor(unit, open, dead, new Set(measured.map((m) => m.subject))),
    verdict: sentence(unit, dead, open, bad.length > 0),
  };
}

function sentence(unit: Unit, dead: readonly Known[], open: readonly Piece[], found: boolean): string {
  const names = dead.map((d) => partName(unit, d.component)).join(", ");
  if (open.length === 0)
    return `${names}: every piece of the circuit is cleared. The control unit’s own input is left, or one of the readings is wrong.`;
  const list = open.map((p) => p.title).join("; ");
  return found ? `Found at: ${list}.` : `${names} dead. Still suspect: ${list}.`;
}

/** Readings that part the suspects, the most even cut first. */
function readingsFor(unit: Unit, open: readonly Piece[], dead: readonly Known[], done: ReadonlySet<string>): Reading[] {
  if (open.length === 0) return [];
  const total = open.reduce((s, p) => s + p.weight, 0);
  const candidates: { reading: Reading; share: number }[] = [];
  const add = (subject: string, about: readonly Piece[], reading: Omit<Reading, "clears" | "leaves">) => {
    if (about.length === 0 || done.has(subject)) return;
    const ids = new Set(about.map((p) => p.id));
    candidates.push({
      reading: {
        ...reading,
        clears: about.map((p) => p.title),
        leaves: open.filter((p) => !ids.has(p.id)).map((p) => p.title),
      },
      share: about.reduce((s, p) => s + p.weight, 0) / total,
    });
  };
  const nets = [...new Set(open.flatMap((p) => (p.net ? [p.net] : [])))];
  for (const net of nets) {
    const about = open.filter((p) => p.net === net);
    const at = dead.find((d) => net.connects.includes(d.component));
    const plug = at ? `plug of ${partName(unit, at.component).toLowerCase()}` : "plug of the part";
    const wire = net.wires ? ` (${net.wires})` : "";
    if (net.kind === "supply")
      add(net.id, about, {
        checkId: `supply-voltage:${net.id}`,
        title: `Voltage of ${inSentence(net.name)}`,
        touch: [`${plug}, supply wire${wire} from ${net.pins}`, "battery minus"],
        expect:
          net.volts === undefined
            ? "the voltage of the wiring diagram, steady while the harness is moved"
            : `${net.volts} V ± 5 %, steady while the harness is moved`,
        condition: "key on, engine off, everything connected",
      });
    else if (net.kind === "ground")
      add(net.id, about, {
        checkId: `ground-voltage:${net.id}`,
        title: `Voltage drop of ${inSentence(net.name)}`,
        touch: [`${plug}, ground wire${wire} to ${net.pins}`, "battery minus"],
        expect: "below 0.05 V",
        condition: "key on, engine off, everything connected",
      });
    else
      add(net.id, about, {
        checkId: `wire-bend:${net.id}`,
        title: `Continuity of ${inSentence(net.name)}`,
        touch: [`controller plug ${net.pins}${wire}`, `${plug}, signal wire`],
        expect: "below 1 Ω, steady while the harness is bent",
        condition: "key out, both plugs off",
      });
  }
  for (const piece of open.filter((p) => p.kind === "part")) {
    const solenoid = unit.solenoids.find((s) => s.id === piece.component);
    const id = piece.component ?? "";
    if (solenoid)
      add(id, [piece], {
        checkId: `resistance:${id}`,
        title: `Resistance of ${inSentence(piece.title)}`,
        touch: ["its two pins at the unit’s plug", "each other"],
        expect: `${solenoid.resistanceOhmAt20C[0]}–${solenoid.resistanceOhmAt20C[1]} Ω at 20 °C`,
        condition: "key out, plug off",
      });
    else if (unit.sensors.find((s) => s.id === id)?.channel.endsWith("_rpm"))
      add(id, [piece], {
        checkId: `sensor-swap:${id}`,
        title: `${piece.title}: swap in a known good one`,
        touch: ["fit the known good one, turn the wheel or drive", ""],
        expect: "the reading is back",
        condition: "supply, ground and wire measured good before",
      });
    else
      add(id, [piece], {
        checkId: `temperature-resistance:${id}`,
        title: `Resistance of ${inSentence(piece.title)}`,
        touch: ["its two pins at the plug", "each other"],
        expect: "on the maker’s curve at the temperature of now",
        condition: "key out, plug off",
      });
  }
  return candidates.sort((a, b) => Math.abs(a.share - 0.5) - Math.abs(b.share - 0.5)).map((c) => c.reading);
}
