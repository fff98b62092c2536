import type { JobView, SuspectsView } from "@gearsense/contract";
import { type ChartReading, circuitsOf, type GearOutcome, type Unit } from "@gearsense/core/unit";

/** The verdict of the chart in one sentence. */
export function chartSentence(
  unit: JobView["unit"],
  chart: {
    readonly outcomes: Readonly<Record<string, GearOutcome>>;
    readonly reading: Pick<ChartReading, "explanations">;
  },
): { title: string; detail: string } {
  const bad = Object.keys(chart.outcomes).filter((g) => chart.outcomes[g] === "bad");
  const good = Object.keys(chart.outcomes).filter((g) => chart.outcomes[g] === "good");
  const name = (id: string) => unit.elements.find((e) => e.id === id)?.name ?? id;
  const list = (gears: readonly string[]) =>
    gears.length < 2 ? gears.join("") : `${gears.slice(0, -1).join(", ")} and ${gears.at(-1)}`;
  if (Object.keys(chart.outcomes).length === 0)
    return {
      title: "No gear has been judged yet",
      detail:
        "Import a log of the drive, or make a road test on the chart: good gears clear elements, bad gears accuse them.",
    };
  if (bad.length === 0)
    return {
      title: "Every gear that was driven holds",
      detail: `${list(good) || "None"} held under load. The fault lies outside the friction elements, or was not reproduced.`,
    };
  const [first] = chart.reading.explanations;
  if (!first)
    return {
      title: "No one or two elements explain the gears that fail",
      detail: `${list(bad)} ${bad.length === 1 ? "fails" : "fail"} and ${list(good) || "none"} ${good.length > 1 ? "hold" : "holds"}: look upstream, at pressure, fluid and supply.`,
    };
  if (chart.reading.explanations.length > 1) {
    return {
      title: `${chart.reading.explanations.length} explanations fit the gears`,
      detail: `${list(bad)} ${bad.length === 1 ? "fails" : "fail"}; ${chart.reading.explanations.map((e) => e.map(name).join(" with ")).join(", or ")}.`,
    };
  }
  if (first.length > 1)
    return { title: "Two elements together explain the gears that fail", detail: first.map(name).join(" and ") };
  const [circuit] = circuitsOf(unit as Unit, first);
  const wires = circuit?.nets.map((id) => unit.nets.find((n) => n.id === id)?.name ?? id) ?? [];
  const feeds = circuit?.solenoids.map((id) => unit.solenoids.find((s) => s.id === id)?.name ?? id) ?? [];
  return {
    title: "One part explains every gear that fails and every gear that holds",
    detail: `${name(first[0] as string)}: ${list(bad)} ${bad.length === 1 ? "fails" : "fail"}; ${good.length === 0 ? "no other was driven hard enough to clear anything" : `${list(good)} ${good.length > 1 ? "hold" : "holds"} under the same load without it`}.${feeds.length > 0 ? ` It works through ${[...feeds, ...wires].join(", ")}.` : ""}`,
  };
}

/** What sticks, when another gear was obtained than commanded. @returns undefined when nothing single explains it */
export function stuckSentence(
  unit: JobView["unit"],
  chart: SuspectsView["chart"],
): { title: string; detail: string } | undefined {
  const name = (list: readonly { id: string; name: string }[], id: string) => list.find((c) => c.id === id)?.name ?? id;
  const [first, ...others] = chart.stuck;
  if (!first) return undefined;
  const say = (e: typeof first) =>
    `${name(unit.elements, e.stuck.component)} stays ${e.stuck.state}${e.stuck.towards ? ` in ${e.stuck.towards}` : ""}`;
  const test = first.solenoids.map((id) => name(unit.solenoids, id)).join(", ");
  return {
    title: [first, ...others].map(say).join(", or "),
    detail: `This alone gives the gears that were obtained, and those that came as commanded.${test ? ` Before the unit is opened: ${test}, its wire and its valve.` : ""}`,
  };
}
