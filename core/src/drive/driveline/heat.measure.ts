import type { Finding, MeasuredValue } from "../finding.ts";
import { TYPICAL } from "../limits.ts";
import type { Measure } from "../measure.ts";
import { analyseHeat, type HeatAnalysis } from "./heat.ts";

export const heat: Measure<"heat"> = {
  id: "heat",
  measure: ({ frame }) => analyseHeat(frame),
  findings: (measured) => heatFindings(measured.heat),
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
      loses ? "Warms on while cruising" : "Cooler keeps up while cruising",
      false,
    );
  },
};

function heatFindings(heat: HeatAnalysis | undefined): Finding[] {
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
