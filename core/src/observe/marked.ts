import type { EntryBodies, EntryOf } from "../job/index.ts";
import type { DebrisKnowledge } from "../knowledge/index.ts";
import { LEAK_PLACES } from "./judge.ts";

type About = EntryBodies["photo"]["about"];

/** What a marker can show: a kind of debris, a place that leaks, a state of the connector. */
export interface MarkerSign {
  /** "debris:brass", "leak:pan", "connector:green" */
  readonly id: string;
  readonly label: string;
}

/** Outcomes of the quick check of the connector that can be seen in a picture. */
const CONNECTOR: readonly MarkerSign[] = [
  { id: "connector:fluid", label: "Fluid in the connector" },
  { id: "connector:green", label: "Green or corroded pins" },
  { id: "connector:loose", label: "Pin pushed back" },
];

/** How much paste is too much depends on the distance, and sealant says nothing: neither can be told from a picture. */
const seenInPictures = (known: DebrisKnowledge) => known.kinds.filter((k) => k.table !== null && k.id !== "grey-paste");

/** @returns what a marker in a photo of this can show; empty where only words can say it */
export function markerSigns(about: About, known: DebrisKnowledge): readonly MarkerSign[] {
  if (about === "connector") return CONNECTOR;
  if (about === "leak") return LEAK_PLACES.map((p) => ({ id: `leak:${p.id}`, label: p.label }));
  if (about === "pan" || about === "magnet" || about === "filter")
    return seenInPictures(known).map((k) => ({ id: `debris:${k.id}`, label: k.title }));
  return [];
}

/** A sign that is marked in a photo, once, with the photo that showed it first. */
export interface MarkedSign extends MarkerSign {
  readonly kind: "debris" | "leak" | "connector";
  /** without its kind */
  readonly of: string;
  readonly entryId: string;
}

/** Signs marked in the photos of a job. A sign that does not belong to what the photo is of counts as words. */
export function markedSigns(photos: readonly EntryOf<"photo">[], known: DebrisKnowledge): MarkedSign[] {
  const found = new Map<string, MarkedSign>();
  for (const { id: entryId, body } of photos) {
    const signs = markerSigns(body.about, known);
    for (const { shows } of body.markers) {
      const sign = signs.find((s) => s.id === shows);
      if (!sign || found.has(sign.id)) continue;
      const [kind, of] = sign.id.split(":") as [MarkedSign["kind"], string];
      found.set(sign.id, { ...sign, kind, of, entryId });
    }
  }
  return [...found.values()];
}
