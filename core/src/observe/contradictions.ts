import { deltaE2000, expectedDrainL, judgeLevel, levelMistakes } from "../fluid/index.ts";
import type { EntryBodies, JobState } from "../job/index.ts";
import type { Unit } from "../unit/index.ts";

/** Entries that cannot both be right. */
export interface Contradiction {
  readonly id: string;
  readonly entryIds: readonly string[];
  readonly text: string;
  /** what would settle it */
  readonly settle: string;
}

/** Share of the expected volume under which a drain is short, and over which it is too much. */
export const DRAIN_BAND = [0.75, 1.2] as const;
const LOOKS_FRESH_DELTA_E = 10;
const LOOKS_OLD_DELTA_E = 25;

/** How a drained volume stands to the unit file. @returns undefined when it was not measured */
export function drainedAs(unit: Unit, drainedL: number | null, drainedC: number | null) {
  if (drainedL === null) return undefined;
  const expectedL = expectedDrainL(unit, drainedC);
  const share = drainedL / expectedL;
  return {
    expectedL,
    state: share < DRAIN_BAND[0] ? "short" : share > DRAIN_BAND[1] ? "over" : "as-expected",
  } as const;
}

/**
 * Does a photo beside white paper bear out the word for the colour of the fluid? Dark words need a fluid far from fresh,
 * "fresh" one near it, each by more than the uncertainty of the photo (CIEDE2000).
 * @returns undefined without a photo or without the fresh colour in the unit file
 */
export function photoAgainstWord(
  unit: Unit,
  { colour, photo }: EntryBodies["fluid"],
): { readonly away: number; readonly against: boolean } | undefined {
  if (!photo || !unit.fluid.freshLab) return undefined;
  const away = deltaE2000(unit.fluid.freshLab, photo.lab);
  const dark = colour === "brown" || colour === "black";
  return {
    away,
    against:
      (dark && away < LOOKS_FRESH_DELTA_E - photo.uncertaintyDeltaE) ||
      (colour === "fresh" && away > LOOKS_OLD_DELTA_E + photo.uncertaintyDeltaE),
  };
}

/** Points out entries of a job that contradict each other. The order of the entries does not matter. */
export function findContradictions(unit: Unit, state: JobState): Contradiction[] {
  const out: Contradiction[] = [];
  const add = (id: string, entries: readonly ({ readonly id: string } | undefined)[], text: string, settle: string) =>
    out.push({ id, entryIds: entries.flatMap((e) => (e ? [e.id] : [])), text, settle });
  const { level, fluid, pan, intake, codesRead } = state;
  const b = level?.body;
  const converted = b && judgeLevel(unit, b);
  const levelState = converted && converted.state !== "undecided" ? converted.state : b?.state;
  const l = (v: number) => `${v.toFixed(1)} l`;
  if (b && levelMistakes(unit, b).some((m) => m.spoils) && b.state !== "not-readable")
    add(
      "level-spoilt",
      [level],
      `The level is stored as ${b.state === "ok" ? "correct" : b.state === "high" ? "overfilled" : b.state}, and the way it was read says nothing of it.`,
      "Read it again by the procedure of the unit.",
    );
  else if (
    b &&
    converted &&
    converted.state !== "undecided" &&
    b.state !== "not-readable" &&
    converted.state !== b.state
  )
    add(
      "level-converted",
      [level],
      `The level is stored as ${b.state === "ok" ? "correct" : b.state === "high" ? "overfilled" : b.state}; at ${converted.referenceC} °C it is ${l(Math.abs(converted.atReferenceL))} ${converted.atReferenceL < 0 ? "low" : "over"}, ± ${l(converted.plusMinusL)}.`,
      "Read it again in the window of the unit file.",
    );
  const drained = pan && drainedAs(unit, pan.body.drainedL, pan.body.drainedC);
  if (drained?.state === "short" && (levelState === "ok" || levelState === "high"))
    add(
      "full-but-short",
      [level, pan],
      `The level was ${levelState === "ok" ? "correct" : "overfilled"}, and ${l(pan?.body.drainedL ?? 0)} of ${l(drained.expectedL)} came out.`,
      "Was all of it caught? Was the level read with the engine off or on a wet stick?",
    );
  if (drained?.state === "over" && levelState === "low")
    add(
      "low-but-over",
      [level, pan],
      `The level was low, and ${l(pan?.body.drainedL ?? 0)} came out where ${l(drained.expectedL)} are expected.`,
      "Was it read hot or in the wrong range? Was the converter drained too?",
    );
  if (fluid?.body.colour === "fresh" && fluid.body.smell === "burnt")
    add(
      "fresh-but-burnt",
      [fluid],
      "The fluid looks fresh and smells burnt.",
      "Was it changed lately? What stays in converter and cooler still smells. Ask, and look at the magnet.",
    );
  if (fluid && (fluid.body.colour === "milky") !== (fluid.body.cloudiness === "milky") && fluid.body.cloudiness)
    add(
      "milky-or-not",
      [fluid],
      `The fluid is ${fluid.body.colour} by colour and ${fluid.body.cloudiness} by clearness.`,
      "Let a glass of it stand for ten minutes: water sinks, air rises.",
    );
  const photo = fluid && photoAgainstWord(unit, fluid.body);
  if (fluid && photo?.against) {
    const fresh = fluid.body.colour === "fresh";
    add(
      "word-against-photo",
      [fluid],
      `The fluid is called ${fluid.body.colour}; in the photo it is ΔE ${photo.away.toFixed(0)} from fresh.`,
      fresh
        ? "Another fluid may be in it: dyes differ. Ask what was filled."
        : "Take the photo again beside white paper, or change the word.",
    );
  }
  for (const none of pan?.body.debris.filter((d) => d.amount === 0) ?? []) {
    const shows = state.photos.find((p) => p.body.markers.some((m) => m.shows === `debris:${none.kind}`));
    if (shows)
      add(
        `none-but-marked-${none.kind}`,
        [pan, shows],
        `The pan is stored without ${none.kind.replaceAll("-", " ")}, and a photo of ${shows.body.about === "other" ? "it" : `the ${shows.body.about}`} has some marked.`,
        "Look at the photo again, and change the pan or the marker. The pan counts until then.",
      );
  }
  const changed = intake?.body.history?.find((h) => h.kind === "fluid");
  if (changed && (fluid?.body.colour === "black" || (fluid?.body.smell === "burnt" && fluid.body.colour !== "fresh")))
    add(
      "changed-but-old",
      [intake, fluid],
      `The history says "${changed.what || "fluid changed"}", and the fluid is ${fluid?.body.colour}${fluid?.body.smell === "burnt" ? " and burnt" : ""}.`,
      "When was it changed, and how much of it? A new fluid that is black soon speaks of a clutch that burns.",
    );
  const limps = intake?.body.symptoms.some((s) => s.kind === "limp" || s.kind === "warning-light");
  const cleared = intake?.body.history?.some((h) => h.kind === "codes-cleared" || h.kind === "battery");
  if (limps && codesRead?.body.allModules && state.codes.length === 0 && !cleared)
    add(
      "limp-without-code",
      [intake, codesRead],
      "The complaint is limp mode or a warning light, and no code is stored in any module.",
      "Ask whether codes were cleared or the battery was off; drive until it shows and read again.",
    );
  const battery = state.observations.find((o) => o.body.rung === "battery" && !o.body.skipped);
  const lowVoltage = state.codes.find((c) => /^P056[0-3]$/.test(c.body.code));
  if (battery?.body.outcome === "good" && lowVoltage)
    add(
      "battery-good-but-code",
      [battery, lowVoltage],
      `The battery is good today, and ${lowVoltage.body.code} tells of a wrong voltage.`,
      "Look at the freeze frame: when was it? A loose post or ground comes and goes.",
    );
  const leaks = state.observations.find((o) => o.body.rung === "leaks" && !o.body.skipped);
  if (leaks?.body.outcome === "dry" && levelState === "low")
    add(
      "low-but-dry",
      [leaks, level],
      "The level is low, and everything around the unit is dry.",
      "Was it ever full? Look at the cooler, the vacuum line where there is one, and ask about the last change.",
    );
  return out;
}
