import type { BenchChosen, JobState } from "../job/index.ts";
import type { Unit } from "../unit/index.ts";
import { placeState } from "./judged.ts";

/** A part that was chosen on the bench, with where. */
export interface ChosenPart extends BenchChosen {
  readonly place: string;
  readonly entryId: string;
}

/** Parts that the bench has chosen, in the order in which they were written down. */
export const chosenParts = (state: Pick<JobState, "bench">): ChosenPart[] =>
  state.bench.flatMap((e) =>
    e.body.chosen.filter((c) => c.quantity > 0).map((c) => ({ ...c, place: e.body.place, entryId: e.id })),
  );

/** What follows from a build: how long it is driven gently, and what is watched. */
export interface BuildAftercare {
  readonly breakInKm: number | undefined;
  readonly watch: readonly string[];
}

/** Where the unit file is silent, km. */
const USUAL_BREAK_IN_KM = 500;

/** Break-in and what to watch, from what was built. */
export function aftercareOf(unit: Unit, state: Pick<JobState, "bench">): BuildAftercare {
  const has = (kind: string) => state.bench.some((e) => e.body.place.startsWith(kind));
  const linings = state.bench.some((e) => e.body.place.startsWith("pack-in:"));
  const watch: string[] = [];
  if (linings) watch.push("Learned fill times: read after the relearn and again after the break-in");
  for (const e of state.bench.filter((x) => x.body.place.startsWith("pack-in:") && x.body.chosen.length > 0))
    if (placeState(e.body) !== "pass") watch.push(`${e.body.title}: not all of it was in; its shifts`);
  if (has("converter-choice")) watch.push("Stall speed and fluid temperature on the first hills");
  if (state.bench.some((e) => e.body.place === "cooler" && e.body.looks.some((l) => l.pass === false)))
    watch.push("Flow through the cooler and the filter after 1000 km");
  if (state.bench.some((e) => e.body.place === "pressure" && placeState(e.body) !== "pass"))
    watch.push("Line pressure after 1000 km");
  return { breakInKm: linings ? (unit.bench?.breakInKm ?? USUAL_BREAK_IN_KM) : undefined, watch };
}

/** Measured or seen on the bench without a word on the cause. A unit that was only looked at from outside asks for none. */
export function causeMissing(state: Pick<JobState, "bench">): boolean {
  const failed = state.bench.some(
    (e) =>
      e.body.place !== "cause" &&
      !e.body.place.startsWith("pack-in:") &&
      e.body.place !== "converter-choice" &&
      placeState(e.body) === "fail",
  );
  return failed && !state.bench.some((e) => e.body.place === "cause" && e.body.looks.some((l) => l.id === "cause"));
}
