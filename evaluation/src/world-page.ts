import type { JobScore } from "./judge-job.ts";

const share = (part: number, all: number) => (all > 0 ? part / all : Number.NaN);
const percent = (x: number) => (Number.isNaN(x) ? "–" : `${(100 * x).toFixed(1)} %`);

/** Targets for vehicles of a world that the knowledge was not counted in. */
export const WORLD_TARGETS = {
  firstFault: 0.75,
  stated: [0.7, 0.9],
  statedRight: [0.68, 0.92],
  noRepair: 0.93,
} as const;

export interface WorldFigures {
  readonly vehicles: number;
  readonly firstFault: number;
  readonly inThree: number;
  readonly firstPlace: number;
  readonly stated: { readonly count: number; readonly right: number };
  readonly repairRight: number;
  readonly healthy: { readonly count: number; readonly noRepair: number };
  /** something is wrong that the catalogue does not know: no repair of the transmission is advised */
  readonly outside: { readonly count: number; readonly noRepair: number };
}

export function worldFigures(scores: readonly JobScore[]): WorldFigures {
  const one = scores.filter((s) => s.spec.faultIds.length === 1);
  const of = (list: readonly JobScore[], is: (s: JobScore) => boolean) => share(list.filter(is).length, list.length);
  const [low, high] = WORLD_TARGETS.stated;
  const stated = scores.flatMap((s) => (s.leading && s.leading.p >= low && s.leading.p < high ? [s.leading] : []));
  const none = (outside: boolean) => scores.filter((s) => s.spec.faultIds.length === 0 && s.spec.outside === outside);
  const noRepair = (list: readonly JobScore[]) => ({
    count: list.length,
    noRepair: of(list, (s) => s.followed["expected-cost"].atOnce),
  });
  return {
    vehicles: scores.length,
    firstFault: of(one, (s) => s.rank === 1),
    inThree: of(one, (s) => (s.rank ?? 99) <= 3),
    firstPlace: of(one, (s) => s.placeRank === 1),
    stated: { count: stated.length, right: share(stated.filter((l) => l.right).length, stated.length) },
    repairRight: of(one, (s) => s.followed["expected-cost"].right),
    healthy: noRepair(none(false)),
    outside: noRepair(none(true)),
  };
}

/** The part of the evaluation page on other worlds, in Markdown: a column for each. */
export function worldPage(
  worlds: readonly { readonly world: number; readonly scores: readonly JobScore[] }[],
  set: string,
  seed: number,
): string {
  const figures = worlds.map((w) => worldFigures(w.scores));
  const row = (name: string, target: string, value: (f: WorldFigures) => string, ok?: (f: WorldFigures) => boolean) =>
    `| ${name} | ${target} | ${figures.map((f) => `${value(f)}${ok && !ok(f) ? " ✗" : ""}`).join(" | ")} |`;
  const [least, most] = WORLD_TARGETS.statedRight;
  const calls = worlds.map(
    ({ world, scores }) =>
      `\`./gearsense evaluate jobs --world ${world} --cases ${scores.length} --seed ${seed}${set === "tuning" ? " --set tuning" : ""}\``,
  );
  return `${[
    "## In another world",
    "",
    `${calls.join(", ")} wrote this part. Vehicles of another family (every range that mass, shafts, tyres, valves, sensors and shift style are drawn from is moved and widened), each class of fault three times as common or as rare as the catalogue says, every rate of error doubled, one observation in twenty saying something at random, and one vehicle in twenty with a fault that the catalogue does not know. The judgement knows nothing of it.`,
    "",
    `| Measure | Target | ${worlds.map((w) => (w.world === 0 ? "our own" : `world ${w.world}`)).join(" | ")} |`,
    `|---|---|${worlds.map(() => "---|").join("")}`,
    row("Vehicles", "", (f) => String(f.vehicles)),
    row(
      "Right fault first",
      "≥ 75 %",
      (f) => percent(f.firstFault),
      (f) => f.firstFault >= WORLD_TARGETS.firstFault,
    ),
    row("  in the first three", "", (f) => percent(f.inThree)),
    row("Right place first", "", (f) => percent(f.firstPlace)),
    row(
      "Stated 70 to 90 %: is right",
      "68–92 %",
      (f) => `${percent(f.stated.right)} (${f.stated.count})`,
      (f) => f.stated.right >= least && f.stated.right <= most,
    ),
    row("The repair is right", "", (f) => percent(f.repairRight)),
    row(
      "Nothing wrong: no repair is advised",
      "≥ 93 %",
      (f) => `${percent(f.healthy.noRepair)} (${f.healthy.count})`,
      (f) => f.healthy.noRepair >= WORLD_TARGETS.noRepair,
    ),
    row(
      "A fault that the catalogue does not know: no repair of the transmission is advised",
      "",
      (f) => `${percent(f.outside.noRepair)} (${f.outside.count})`,
    ),
  ].join("\n")}\n`;
}
