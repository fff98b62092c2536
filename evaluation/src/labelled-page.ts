import type { LabelledScore } from "./labelled.ts";
import type { Counts } from "./score.ts";
import { type Figure, figureText, met } from "./summary.ts";

const share = (part: number, all: number) => (all > 0 ? part / all : undefined);
const SURE = 0.8;

/** The figures of a folder of labelled logs, each with its target. */
export function labelledFigures(scores: readonly LabelledScore[]): Figure[] {
  const figure = (
    name: string,
    part: number,
    all: number,
    target: number,
    better: Figure["better"] = "higher",
  ): Figure => ({ name, value: share(part, all), count: all, unit: "share", target, better });
  const add = (of: (s: LabelledScore) => Counts) =>
    scores.map(of).reduce((a, b) => ({
      hit: a.hit + b.hit,
      wrong: a.wrong + b.wrong,
      missed: a.missed + b.missed,
    }));
  const f1 = (name: string, { hit, wrong, missed }: Counts, target: number) => ({
    ...figure(name, 2 * hit, 2 * hit + wrong + missed, target),
    count: hit + missed,
  });
  const healthy = scores.filter((s) => s.healthy);
  const faulty = scores.filter((s) => !s.healthy && s.observable);
  const shudders = scores.filter((s) => s.shudder);
  const [real, said] = [shudders.filter((s) => s.shudder?.real), shudders.filter((s) => s.shudder?.said)];
  const heard = said.filter((s) => s.shudder?.real).length;
  const limps = scores.filter((s) => s.limp.real);
  const slips = scores.filter((s) => s.slipRight !== undefined);
  const judged = [...faulty, ...healthy];
  const sure = judged.filter((s) => s.leading.p >= SURE);
  const count = (list: readonly LabelledScore[], is: (s: LabelledScore) => boolean) => list.filter(is).length;
  return [
    figure(
      "Analysed without a refusal",
      count(scores, (s) => s.refused === undefined),
      scores.length,
      1,
    ),
    f1(
      "Commanded shifts found, F1",
      add((s) => s.shifts),
      0.98,
    ),
    figure(
      "Healthy logs with a finding that says fault",
      count(healthy, (s) => s.faults.length > 0),
      healthy.length,
      0.05,
      "lower",
    ),
    figure("Shudder at 20 Hz and more: precision", heard, said.length, 0.95),
    figure("Shudder at 20 Hz and more: recall", heard, real.length, 0.85),
    f1(
      "Gaps of a sensor of three readings and more, F1",
      add((s) => s.dropouts),
      0.95,
    ),
    figure(
      "Limp mode found",
      count(limps, (s) => s.limp.said),
      limps.length,
      0.9,
    ),
    figure(
      "Limp mode said where there was none",
      count(scores, (s) => s.limp.said && !s.limp.real),
      scores.length - limps.length,
      0,
      "lower",
    ),
    figure(
      "Slip leads to the right element",
      count(slips, (s) => s.slipRight === true),
      slips.length,
      0.9,
    ),
    figure(
      "Right place first, from the log alone",
      count(faulty, (s) => s.placeRank === 1),
      faulty.length,
      0.75,
    ),
    figure(
      "Right place among the first three",
      count(faulty, (s) => s.placeRank <= 3),
      faulty.length,
      0.92,
    ),
    figure(
      "Healthy: nothing wrong first",
      count(healthy, (s) => s.placeRank === 1),
      healthy.length,
      0.85,
    ),
    figure(
      "Places stated at 80 % and more: are right",
      count(sure, (s) => s.leading.right),
      sure.length,
      0.8,
    ),
  ];
}

/** The table of a folder of labelled logs and a line for each kind and each log, in Markdown. */
export function labelledPage(scores: readonly LabelledScore[]): string {
  const kinds = [...new Set(scores.map((s) => s.kind))].sort();
  const target = (f: Figure) => `${f.better === "higher" ? "≥" : "≤"} ${figureText({ value: f.target, unit: f.unit })}`;
  const percent = (n: number, of: number) => `${n} of ${of}`;
  return [
    "## Labelled logs",
    "",
    `${scores.length} logs, each analysed from its file alone and judged by nothing else.`,
    "",
    "| Measure | Target | Seen | On |",
    "|---|---|---|---|",
    ...labelledFigures(scores).map(
      (f) => `| ${f.name} | ${target(f)} | ${figureText(f)}${met(f) === false ? " ✗" : ""} | ${f.count} |`,
    ),
    "",
    "| Kind | Logs that can show it | With a finding that says fault | Right place first | In three |",
    "|---|---|---|---|---|",
    ...kinds.map((kind) => {
      const own = scores.filter((s) => s.kind === kind && s.observable);
      const n = (is: (s: LabelledScore) => boolean) => percent(own.filter(is).length, own.length);
      return `| ${kind.replaceAll("_", " ")} | ${own.length} | ${n((s) => s.faults.length > 0)} | ${n((s) => s.placeRank === 1)} | ${n((s) => s.placeRank <= 3)} |`;
    }),
    "",
    ...scores.map(
      (s) =>
        `- ${s.name}: ${s.kind.replaceAll("_", " ")}, ${s.rateHz} Hz${s.observable ? "" : ", not to be seen"}: ${
          s.refused ??
          `${s.leading.place} ${Math.round(100 * s.leading.p)} %${s.leading.right ? "" : `, right place ${Number.isFinite(s.placeRank) ? `at ${s.placeRank}` : "unknown"}`}${s.faults.length > 0 ? `; ${s.faults.join("; ")}` : ""}`
        }`,
    ),
    "",
  ].join("\n");
}
