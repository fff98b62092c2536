import { type EntryOf, type JobState, outcomesAt } from "../../job/index.ts";
import {
  FELT_WORDS,
  feltPlaces,
  genericMeaning,
  isGood,
  otherConditions,
  partsOfFrame,
  placeWords,
} from "../../observe/index.ts";
import { componentName, type Unit } from "../../unit/index.ts";
import type { Evidence } from "./evidence.ts";
import { SURENESS } from "./sureness.ts";

/** Table that weighs a place, and what it speaks of. @returns undefined for a gear or shift that the unit lacks */
function aboutPlace(unit: Unit, where: string): Pick<Evidence, "table" | "subject"> | undefined {
  const gears = new Set(unit.gears.map((g) => g.name));
  if (where === "P") return { table: "felt-park", subject: {} };
  if (where === "N") return { table: "felt-neutral", subject: {} };
  if (gears.has(where)) return { table: "felt-gear", subject: { gear: where } };
  const ends = where.split("-");
  if (ends.length === 2 && ends.every((g) => gears.has(g))) return { table: "felt-shift", subject: { shift: where } };
  return outcomesAt(where) ? { table: `felt-${where}`, subject: {} } : undefined;
}

/**
 * Road tests without a log. Two people's words stand beside each other: what both felt counts once, by the surer of them;
 * a good word from a softer drive, or from another temperature, is no answer to a bad one; what is left contradicts.
 */
export function fromFelt(unit: Unit, tests: readonly EntryOf<"felt">[]): Evidence[] {
  const all = tests.flatMap((t) => feltPlaces(t.body).map((p) => ({ ...p, entryId: t.id })));
  const list: Evidence[] = [];
  for (const where of new Set(all.map((p) => p.where))) {
    const about = aboutPlace(unit, where);
    if (!about) continue;
    const here = all
      .filter((p) => p.where === where)
      .sort((a, b) => SURENESS[b.sure] * b.shows - SURENESS[a.sure] * a.shows);
    const bad = here.filter((p) => !isGood(p));
    const answers = here.filter((p) => isGood(p) && !bad.every((b) => otherConditions(p, b)));
    // of those who felt it fail the surest says how; a good word counts beside it only where it answers it
    const kept = bad.length === 0 ? here.slice(0, 1) : [...bad.slice(0, 1), ...answers.slice(0, 1)];
    for (const p of kept)
      list.push({
        ...about,
        // two people who differ are two pieces, which then contradict each other
        id: `felt:${where}${kept.length > 1 ? `:${p.by}` : ""}`,
        outcome: p.outcome,
        label: `${placeWords(where)}: ${FELT_WORDS[p.outcome]} (${p.by})`,
        entryId: p.entryId,
        abnormal: !isGood(p),
        weight: SURENESS[p.sure] * p.shows,
      });
  }
  const heat = all.filter((p) => p.heat !== undefined && p.outcome === "slips");
  const [first] = heat;
  if (first && heat.every((p) => p.heat === first.heat))
    list.push({
      id: "felt-heat",
      table: "slip-heat",
      subject: {},
      outcome: first.heat as string,
      label: first.heat === "only-hot" ? `Slips only hot (${first.by})` : `Slips cold too (${first.by})`,
      entryId: first.entryId,
      abnormal: false,
      weight: SURENESS[first.sure],
    });
  return list;
}

/** What codes of many makers, and the freeze frames of all, say of gears, valves and parts. */
export function fromCodeMeanings(unit: Unit, codes: JobState["codes"]): Evidence[] {
  const list = new Map<string, Evidence>();
  for (const c of codes) {
    if (c.body.triage === "earlier-work") continue;
    const add = (e: Omit<Evidence, "entryId">) => {
      if (!list.has(e.id)) list.set(e.id, { ...e, entryId: c.id });
    };
    const meaning = genericMeaning(unit, c.body);
    if (meaning?.kind === "ratio")
      add({
        id: `ratio-code:${meaning.gear}`,
        table: "ratio-code",
        subject: { gear: meaning.gear },
        outcome: "stored",
        label: `Code ${c.body.code}: wrong ratio in ${meaning.gear === "R" ? "reverse" : `gear ${meaning.gear}`}`,
        abnormal: true,
      });
    if (meaning?.kind === "solenoid")
      add({
        id: `solenoid-code:${meaning.component}`,
        table: "solenoid-code",
        subject: { component: meaning.component },
        outcome: meaning.how,
        label: `Code ${c.body.code}: ${componentName(unit, meaning.component)}, ${meaning.how === "stuck" ? "does not do what it is told" : "electrical"}`,
        abnormal: true,
      });
    for (const part of partsOfFrame(unit, c.body.freezeFrame))
      add({
        id: `frame-part:${part}`,
        table: "frame-part",
        subject: { component: part },
        outcome: "named",
        label: `Freeze frame of ${c.body.code} names ${componentName(unit, part)}`,
        abnormal: false,
      });
  }
  return [...list.values()];
}
