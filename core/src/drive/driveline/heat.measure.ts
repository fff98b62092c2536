import type { Analysis } from "../analysis.ts";
import type { Finding, MeasuredValue } from "../finding.ts";
import { TYPICAL } from "../limits.ts";
import type { Measure } from "../measure.ts";
import { analyseHeat, type HeatAnalysis } from "./heat.ts";

const LASTS_SHARE = 0.9;
const AS_HARD = 0.7;
const UNDER_LOAD = "of the drive under load";

/** Part of the driving at medium and hard load: what heats a sound unit too. */
function underLoadPct({ held }: Pick<Analysis, "held">): number {
  const seconds = (loads: readonly string[]) =>
    held.groups.filter((g) => loads.includes(g.load)).reduce((s, g) => s + g.seconds, 0);
  const all = seconds(["coast", "light", "medium", "hard"]);
  return all > 0 ? (100 * seconds(["medium", "hard"])) / all : 0;
}

export const heat: Measure<"heat"> = {
  id: "heat",
  measure: ({ frame }) => analyseHeat(frame),
  findings: (measured) => heatFindings(measured.heat, underLoadPct(measured)),
  compares: {
    heat: {
      by: "state",
      rateHz: 0.1,
      leastS: 300,
      label: "as long and as hard as before",
      // a gentle or a short drive stays cool whatever the cooler does
      state: (a, f) =>
        a.heat &&
        a.durationS > LASTS_SHARE * f.endS &&
        underLoadPct(a) >= AS_HARD * (f.measures.find((m) => m.name === UNDER_LOAD)?.value ?? 0)
          ? { value: a.heat.highestC, seconds: a.durationS }
          : undefined,
    },
  },
  evidence(_unit, analysis, add) {
    if (!analysis.heat) return;
    const finding = analysis.findings.find((f) => f.kind === "heat");
    const outcome = !finding ? "normal" : finding.severity === "fault" ? "too-hot" : "warm";
    add(
      "heat",
      "all",
      {},
      outcome,
      `${analysis.heat.sensor === "fluid" ? "Fluid" : "Clutch"} ${outcome.replace("-", " ")}`,
      outcome !== "normal",
    );
    if (analysis.heat.cooler === "not driven") return;
    const loses = analysis.heat.cooler === "loses";
    add(
      "cooling",
      "all",
      {},
      loses ? "loses" : "cools",
      loses ? "Keeps warming up while cruising" : "Cooler keeps up while cruising",
      false,
    );
  },
};

function heatFindings(heat: HeatAnalysis | undefined, loadPct: number): Finding[] {
  if (!heat) return [];
  const clutch = heat.sensor === "clutch";
  const limitC = clutch ? TYPICAL.clutchC : TYPICAL.fluidC;
  const seconds = clutch ? (heat.highestC > limitC ? 1 : 0) : (heat.secondsAbove[1] ?? 0);
  const loses = heat.cooler === "loses" && heat.highestC > 105;
  if (!(seconds > 10 || (clutch && seconds > 0) || loses)) return [];
  const measures: [MeasuredValue, ...MeasuredValue[]] = [
    { name: "highest", value: heat.highestC, quantity: "temperature" },
  ];
  if (heat.fastestRiseKPerMin !== undefined)
    measures.push({ name: "rise a minute", value: heat.fastestRiseKPerMin, quantity: "temperature-difference" });
  if (heat.cruiseKPerMin !== undefined)
    measures.push({
      name: "a minute of easy cruising",
      value: heat.cruiseKPerMin,
      quantity: "temperature-difference",
    });
  if (loadPct > 0) measures.push({ name: UNDER_LOAD, value: loadPct, quantity: "percent" });
  return [
    {
      id: "heat",
      kind: "heat",
      title: loses
        ? "Heat is not carried off while hardly anything slips"
        : `${clutch ? "Clutch" : "Fluid"} gets too hot`,
      subject: {},
      severity: heat.highestC > (clutch ? limitC : TYPICAL.fluidHighestC) || loses ? "fault" : "notice",
      startS: Math.max(0, heat.highestAtS - 20),
      endS: heat.highestAtS,
      occurrences: [{ startS: Math.max(0, heat.highestAtS - 20), endS: heat.highestAtS, value: heat.highestC }],
      conditions: { gears: [], fluidC: [heat.fromC, heat.highestC] },
      measures,
      limit: { value: limitC, quantity: "temperature", source: "typical" },
      confidence: {
        level: heat.slipEnergyKj === undefined ? "medium" : "high",
        reason: `${(heat.secondsAbove[0] ?? 0).toFixed(0)} s above 110 °C`,
        raise: heat.slipEnergyKj === undefined ? "record engine torque: then heat can be set against slip" : undefined,
      },
    },
  ];
}
