// Guards: what is typed at the bench comes back as it was typed, wrong units are asked for, a pasted column finds its fields.
import { readFileSync } from "node:fs";
import { benchPlaces } from "@gearsense/core/bench";
import type { BenchKnowledge, Instrument } from "@gearsense/core/knowledge";
import type { Unit } from "@gearsense/core/unit";
import { describe, expect, it } from "@jest/globals";
import { curveOf, formOf, inOwnUnit, spreadLines, typedBody } from "./bench-form.ts";

const json = (path: string) => JSON.parse(readFileSync(new URL(`../../../library/${path}`, import.meta.url), "utf8"));
const knowledge = {
  bench: json("knowledge/bench.json") as BenchKnowledge,
  instruments: json("knowledge/checks.json").instruments as Instrument[],
};
const brae = json("units/brae-p6.unit.json") as Unit;
const places = benchPlaces(brae, knowledge.bench);
const place = (id: string) => {
  const p = places.find((x) => x.id === id);
  if (!p) throw new Error(id);
  return p;
};
const pack = place("pack:TC");
const empty = formOf(undefined, knowledge.instruments, "metric");
const typed = (readings: Record<string, string>, more: object = {}) =>
  typedBody(pack, { ...empty, readings, ...more }, knowledge.instruments);

describe("what is typed", () => {
  it("is read with its instrument, and comes back as it was typed, in inches too", () => {
    const { body, problems, questions } = typed(
      { "plate-1": "1,82 1.83", clearance: "1.4" },
      { instruments: { clearance: "caliper" } },
    );
    expect([problems, questions]).toEqual([{}, {}]);
    expect(body.values).toMatchObject([
      { id: "plate-1", readings: [1.82, 1.83], instrument: "Micrometer", fixed: 0.006, from: 1.6 },
      { id: "clearance", readings: [1.4], instrument: "Caliper", fixed: 0.03, from: 0.9, to: 1.8 },
    ]);
    const inches = formOf(body, knowledge.instruments, "imperial");
    expect(Number(inches.readings["plate-1"]?.split(" ")[0])).toBeCloseTo(1.82 / 25.4, 6);
    expect(typedBody(pack, inches, knowledge.instruments).body.values[0]?.readings[0]).toBeCloseTo(1.82, 5);
    expect(typedBody(pack, formOf(body, knowledge.instruments, "metric"), knowledge.instruments).body).toEqual(body);
  });
  it("that isn’t a number, or copper without its temperature, is named", () => {
    expect(typed({ "plate-1": "1.8 mm" }).problems["plate-1"]).toMatch(/Numbers with a space/);
    const electrical = place("electrical");
    const coil = (c: number | null) =>
      typedBody(
        electrical,
        { ...empty, readings: { "coil-sol_TC": "5.2" }, temperaturesC: { "coil-sol_TC": c } },
        knowledge.instruments,
      );
    expect(coil(null).problems["coil-sol_TC"]).toMatch(/temperature too/);
    expect(coil(35).body.values[0]).toMatchObject({ temperatureC: 35 });
  });
  it("in mil is asked for; answered it is brought over, or stands as read", () => {
    const asked = typed({ "plate-1": "71 72" });
    expect(asked.questions["plate-1"]).toMatchObject({ unit: "mil" });
    expect(inOwnUnit(pack, { ...empty, readings: { "plate-1": "71 1.82" } }, "plate-1")).toBe("1.8034 1.82");
    const stands = typed({ "plate-1": "71" }, { asRead: { "plate-1": true } });
    expect(stands.questions).toEqual({});
    expect(stands.body.values[0]).toMatchObject({ asRead: true });
  });
  it("as a curve is pairs by line", () => {
    expect(curveOf("1000 180\n\n1800\t300", "metric")).toEqual([
      [1000, 180],
      [1800, 300],
    ]);
    expect(curveOf("1000 180\n1800", "metric")).toMatch(/Line 2: a speed and a torque/);
    expect((curveOf("1000 100", "imperial") as [number, number][])[0]?.[1]).toBeCloseTo(135.58, 1);
  });
});

describe("a pasted column", () => {
  it("goes over the fields from where it was pasted, named lines to their own", () => {
    const { readings, lost } = spreadLines(
      pack,
      { "plate-1": "1.9" },
      "1.82\n1.81 1.80\nclearance;1.4\nFriction plate 4,1.79,1.78\n1.77",
      "plate-2",
    );
    expect(lost).toEqual([]);
    expect(readings).toEqual({
      "plate-1": "1.9",
      "plate-2": "1.82",
      "plate-3": "1.81 1.8",
      clearance: "1.4",
      "plate-4": "1.77",
    });
  });
  it("tells which lines went nowhere", () => {
    expect(spreadLines(pack, {}, "unit;value\nplate-1;1.8").lost).toEqual(["unit;value"]);
    const beyond = Array.from({ length: pack.measures.length + 1 }, () => "1.8").join("\n");
    expect(spreadLines(pack, {}, beyond).lost).toEqual(["1.8"]);
  });
});
