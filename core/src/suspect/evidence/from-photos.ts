import type { JobState } from "../../job/index.ts";
import { type DebrisKnowledge, leakSource, markedSigns } from "../../observe/index.ts";
import { inSentence } from "../../unit/index.ts";
import type { Evidence } from "./evidence.ts";
import { SURENESS } from "./sureness.ts";

/**
 * What is marked in photos and stands nowhere else. What was also written down counts there, once; amounts that a picture
 * cannot tell are taken as "some", a wet place as a seep.
 */
export function fromPhotos(state: JobState, known: DebrisKnowledge): Evidence[] {
  const signs = markedSigns(state.photos, known);
  const weight = SURENESS.fairly;
  const looked = (rung: string) => state.observations.some((o) => o.body.rung === rung && !o.body.skipped);
  const of = (kind: string) => signs.filter((s) => s.kind === kind);
  const base = { subject: {}, abnormal: true, weight };
  const list: Evidence[] = [];
  const written = new Set(state.pan?.body.debris.map((d) => d.kind as string));
  for (const s of of("debris")) {
    const table = known.kinds.find((k) => k.id === s.of)?.table;
    if (!table || written.has(s.of)) continue;
    list.push({
      ...base,
      id: table,
      table,
      outcome: "some",
      label: `Photo: ${inSentence(s.label)}`,
      entryId: s.entryId,
    });
  }
  const [pin] = of("connector");
  if (pin && !looked("connector"))
    list.push({
      ...base,
      id: "observation:connector",
      table: "observation",
      checkId: "connector",
      outcome: pin.of,
      label: `Photo: ${inSentence(pin.label)}`,
      entryId: pin.entryId,
    });
  const wet = of("leak");
  const source = leakSource(Object.fromEntries(wet.map((s) => [s.of, "seep"])));
  const shown = wet.find((s) => s.of === source?.id);
  if (source && shown && !looked("leaks"))
    list.push(
      {
        ...base,
        id: "observation:leaks",
        table: "observation",
        checkId: "leaks",
        outcome: "seep",
        label: "Photo: a leak",
        entryId: shown.entryId,
      },
      {
        ...base,
        id: "leak-place",
        table: "leak-place",
        outcome: source.id,
        label: `Photo: leaks at ${inSentence(source.label)}`,
        entryId: shown.entryId,
      },
    );
  return list;
}
