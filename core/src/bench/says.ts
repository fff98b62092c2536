import type { BenchValue, EntryOf, JobState } from "../job/index.ts";
import type { BenchKnowledge } from "../knowledge/index.ts";
import { SURE_ENOUGH, surePercent } from "../measure/index.ts";
import type { Unit } from "../unit/index.ts";
import { type BenchBody, benchValue, judgedValue, meanValue } from "./judged.ts";
import { comparePlates } from "./packs.ts";

/** Twins of one unit may differ by this share before one is looked at. */
const TWIN_SHARE = 0.06;
/** A pull-in time may differ from those of its twins by this share. */
const PULL_SHARE = 0.25;
/** Read against commanded pressure: a share and a fixed part, kPa. */
const FOLLOWS = { share: 0.1, kpa: 50 } as const;

/**
 * Coils that are built alike, held against each other at 20 °C: one that differs from its twins by more than a twentieth is
 * named even inside its window.
 */
export function coilsSay(unit: Unit, values: readonly BenchValue[]): string[] {
  const says: string[] = [];
  const groups = new Map<string, { readonly name: string; readonly ohm: number }[]>();
  for (const s of unit.solenoids) {
    const v = values.find((x) => x.id === `coil-${s.id}`);
    if (!v) continue;
    const key = s.resistanceOhmAt20C.join("–");
    groups.set(key, [...(groups.get(key) ?? []), { name: s.name, ohm: meanValue(v).value }]);
  }
  for (const list of groups.values()) {
    if (list.length < 2) continue;
    for (const one of list) {
      const others = list.filter((o) => o !== one);
      const mean = others.reduce((s, o) => s + o.ohm, 0) / others.length;
      const off = one.ohm / mean - 1;
      // of two nobody knows which is off
      if (Math.abs(off) > TWIN_SHARE && (list.length > 2 || one === list[0]))
        says.push(
          list.length > 2
            ? `${one.name} has ${one.ohm.toFixed(2)} Ω at 20 °C, ${Math.abs(100 * off).toFixed(0)} % ${off > 0 ? "more" : "less"} than its twins.`
            : `${one.name} and ${others[0]?.name} differ by ${Math.abs(100 * off).toFixed(0)} % though they are twins: one of them is ageing.`,
        );
    }
  }
  const pulls = unit.solenoids.flatMap((s) => {
    const v = values.find((x) => x.id === `pull-${s.id}`);
    return v ? [{ name: s.name, ms: meanValue(v).value }] : [];
  });
  if (pulls.length >= 3)
    for (const one of pulls) {
      const others = pulls.filter((o) => o !== one).map((o) => o.ms);
      const mean = others.reduce((a, b) => a + b, 0) / others.length;
      if (one.ms > mean * (1 + PULL_SHARE))
        says.push(
          `${one.name} pulls in after ${one.ms.toFixed(1)} ms, its twins after ${mean.toFixed(1)} ms: it sticks.`,
        );
    }
  return says;
}

/** Line pressure against what was commanded, range by range. */
export function pressureSays(values: readonly BenchValue[]): string[] {
  return values.flatMap((v) => {
    const range = /^idle-(.+)$/.exec(v.id)?.[1];
    const command = range && values.find((x) => x.id === `command-${range}`);
    if (!command) return [];
    const read = meanValue(v).value;
    const asked = meanValue(command).value;
    const off = read - asked;
    if (Math.abs(off) <= FOLLOWS.share * asked + FOLLOWS.kpa) return [];
    return [
      `${range}: ${Math.round(read)} kPa where ${Math.round(asked)} kPa are commanded, ${Math.round(Math.abs(off))} kPa too ${off < 0 ? "little: pump, regulator, or a leak behind it" : "much: the regulator sticks"}.`,
    ];
  });
}

/** What each thing found in a converter did to the vehicle, and what breaks it so. */
export function converterSays(
  k: BenchKnowledge,
  body: Pick<BenchBody, "looks">,
): { readonly id: string; readonly found: string; readonly did: string; readonly broke: string }[] {
  return body.looks.flatMap((l) => {
    const finding = k.converterFindings.find((f) => f.look === l.id && f.option === l.outcome);
    if (!finding) return [];
    const broke = finding.broke.flatMap((id) => k.causes.find((c) => c.id === id)?.title ?? []);
    return [{ id: l.id, found: `${l.name}: ${l.label}`, did: finding.did, broke: broke.join("; ") }];
  });
}

export interface DualClutchState {
  readonly clutch: string;
  /** lost of the height of a new pack, mm; below 0: thicker */
  readonly lostMm: number;
  /** touch point that follows from what the pack has lost, kPa */
  readonly touchKpa: number | undefined;
  readonly learnedKpa: number | undefined;
  /** what was learned against what is measured; undefined when one is missing */
  readonly agrees: boolean | undefined;
}

/** A learned touch point bears out the plates within so much, kPa. */
const TOUCH_BAND_KPA = 25;

/** Each dual clutch by what its pack has lost, with the touch point that was learned before. */
export function dualClutchStates(unit: Unit, values: readonly BenchValue[]): DualClutchState[] {
  return (unit.bench?.dualClutches ?? []).flatMap((c) => {
    const height = benchValue({ values }, `height-${c.clutch}`);
    if (!height) return [];
    const lostMm = c.packHeightMm[1] - height.value;
    const fresh = unit.adaptations?.find((a) => a.component === c.clutch && a.unit === "kPa")?.newValue;
    const touchKpa = fresh === undefined ? undefined : fresh + c.touchKpaPerMm * lostMm;
    const learnedKpa = benchValue({ values }, `learned-${c.clutch}`)?.value;
    const agrees =
      touchKpa === undefined || learnedKpa === undefined
        ? undefined
        : Math.abs(touchKpa - learnedKpa) <= TOUCH_BAND_KPA;
    return [{ clutch: c.clutch, lostMm, touchKpa, learnedKpa, agrees }];
  });
}

/** What the two clutches say of each other and of what was learned. */
export function dualClutchSays(unit: Unit, values: readonly BenchValue[]): string[] {
  const states = dualClutchStates(unit, values);
  const says = states.flatMap((s) => {
    if (s.agrees === undefined || s.touchKpa === undefined || s.learnedKpa === undefined) return [];
    return [
      s.agrees
        ? `${s.clutch}: learned ${Math.round(s.learnedKpa)} kPa, its pack says ${Math.round(s.touchKpa)} kPa: they bear each other out.`
        : `${s.clutch}: learned ${Math.round(s.learnedKpa)} kPa, but its pack says ${Math.round(s.touchKpa)} kPa: ${s.learnedKpa > s.touchKpa ? "more travel than its wear explains, look at piston and seals" : "the learned value is not of this pack, or was reset"}.`,
    ];
  });
  const [a, b] = states;
  const heights = [a, b].map((s) => values.find((v) => v.id === `height-${s?.clutch}`));
  const clutches = unit.bench?.dualClutches ?? [];
  if (a && b && heights[0] && heights[1]) {
    const worn = (v: BenchValue, top: number) => ({
      value: top - meanValue(v).value,
      uncertainty: meanValue(v).uncertainty,
    });
    const of = (id: string) => clutches.find((c) => c.clutch === id)?.packHeightMm[1] ?? 0;
    const compared = comparePlates([worn(heights[0], of(a.clutch))], [worn(heights[1], of(b.clutch))]);
    if (compared && compared.sure >= SURE_ENOUGH) {
      const [more, less] = compared.differenceMm > 0 ? [a, b] : [b, a];
      const { call } = judgedValue(heights[more === a ? 0 : 1] as BenchValue);
      says.push(
        `${more.clutch} has lost ${Math.abs(compared.differenceMm).toFixed(2)} mm more than ${less.clutch}${call === "out" ? ` and is below its limit: ${less.clutch} is not` : ""}.`,
      );
    }
  }
  return says;
}

/** What the drive said before and the bench says now, where both cannot be so. */
export interface BenchContradiction {
  readonly id: string;
  readonly entryIds: readonly string[];
  readonly text: string;
  readonly settle: string;
}

/** A pack counts as measured when so much of its plates are. */
const packState = (unit: Unit, entry: EntryOf<"bench">): "good" | "worn" | undefined => {
  const element = unit.elements.find((e) => e.id === entry.body.place.slice(5));
  const plates = entry.body.values.filter((v) => /^plate-\d+$/.test(v.id));
  if (plates.some((v) => judgedValue(v).call === "out")) return "worn";
  const burnt = entry.body.looks.some(
    (l) => (l.id === "colour" && l.outcome === "black") || (l.id === "flaking" && l.outcome !== "none"),
  );
  if (burnt) return "worn";
  const spoilt =
    entry.body.looks.some((l) => l.pass === false) || entry.body.values.some((v) => judgedValue(v).call === "out");
  return !spoilt && plates.length === (element?.plates ?? 0) && plates.length > 0 ? "good" : undefined;
};

/**
 * Elements that a drive accuses and the bench clears, and the other way round.
 * @param accused - by the chart: cleared and accused elements of the drives before the repair
 */
export function benchContradictions(
  unit: Unit,
  state: Pick<JobState, "bench">,
  drive: { readonly cleared: readonly string[]; readonly accused: readonly string[] },
): BenchContradiction[] {
  const out: BenchContradiction[] = [];
  const found = state.bench
    .filter((e) => e.body.place.startsWith("pack:"))
    .map((e) => ({ e, id: e.body.place.slice(5), state: packState(unit, e) }));
  // a gear that holds clears what another gear accuses
  const accused = drive.accused.filter((id) => !drive.cleared.includes(id));
  const anyWorn = found.some((f) => f.state === "worn" && accused.includes(f.id));
  for (const { e, id, state: pack } of found) {
    const name = unit.elements.find((x) => x.id === id)?.name ?? id;
    if (pack === "good" && accused.includes(id) && !anyWorn)
      out.push({
        id: `bench-clears-${id}`,
        entryIds: [e.id],
        text: `The drive accuses ${name}; on the bench its plates and clearance are in.`,
        settle:
          "Look at what feeds it: sealing rings, piston seals by air check, its valve and solenoid; and whether another element of the same gears is worn.",
      });
    if (pack === "worn" && drive.cleared.includes(id))
      out.push({
        id: `bench-accuses-${id}`,
        entryIds: [e.id],
        text: `The drive cleared ${name}; on the bench it is worn.`,
        settle:
          "It held at the torque that was driven: look at the torque of that drive, and whether these plates are of this unit.",
      });
  }
  return out;
}

/** A verdict in one word with its odds: "in, 97 % sure". */
export function verdictText(v: BenchValue): string {
  const j = judgedValue(v);
  switch (j.call) {
    case "in":
      return `in, ${surePercent(j.inside)} sure`;
    case "out":
      return `out, ${surePercent(1 - j.inside)} sure`;
    case "close":
      return `too close to call, ${surePercent(j.inside)} in`;
    case "no-limit":
      return "no limit";
  }
}
