// Guards: the shipped data keeps to the formats, and the schemas refuse what is not.
import { readdirSync, readFileSync } from "node:fs";
import { checkKnowledge } from "@gearsense/core/suspect";
import { checkUnit } from "@gearsense/core/unit";
import { describe, expect, it } from "@jest/globals";
import { API, NewEntry, openApiDocument, parseKnowledge, UnitFile, WrittenUnitFile } from "./index.ts";
import { MOST_OF_A_UNIT } from "./unit-file.ts";

const LIBRARY = new URL("../../library/", import.meta.url);
const json = (path: string) => JSON.parse(readFileSync(new URL(path, LIBRARY), "utf8"));
const units = readdirSync(new URL("units/", LIBRARY));

it.each(units)("%s keeps to the schema and is consistent", (file) => {
  expect(checkUnit(UnitFile.parse(json(`units/${file}`)))).toEqual([]);
});

it("a unit file with a fault is refused with its path", () => {
  const unit = json("units/brae-p6.unit.json");
  unit.gears[2].ratio = "fast";
  const result = UnitFile.safeParse(unit);
  expect(result.error?.issues[0]?.path).toEqual(["gears", 2, "ratio"]);
});

describe("a unit file is no larger than a unit can be", () => {
  const brae = json("units/brae-p6.unit.json");
  const times = <T>(n: number, make: (i: number) => T) => Array.from({ length: n }, (_, i) => make(i));
  const rows = (n: number, value: unknown) => Object.fromEntries(times(n, (i) => [`row${i}`, value]));
  /** What a file with so many has wrong at that place, by its size. */
  const wrong = (patch: object, path: string) =>
    UnitFile.safeParse({ ...brae, ...patch }).error?.issues.filter(
      (i) => i.path.join(".") === path && (i.code === "too_big" || i.code === "custom"),
    ).length ?? 0;
  it.each<[string, number, (n: number) => object, string]>([
    ["gears", MOST_OF_A_UNIT.gears, (n) => ({ gears: times(n, () => brae.gears[0]) }), "gears"],
    ["elements", MOST_OF_A_UNIT.elements, (n) => ({ elements: times(n, () => brae.elements[0]) }), "elements"],
    ["solenoids", MOST_OF_A_UNIT.solenoids, (n) => ({ solenoids: times(n, () => brae.solenoids[0]) }), "solenoids"],
    ["sensors", MOST_OF_A_UNIT.sensors, (n) => ({ sensors: times(n, () => brae.sensors[0]) }), "sensors"],
    ["nets", MOST_OF_A_UNIT.nets, (n) => ({ nets: times(n, () => brae.nets[0]) }), "nets"],
    [
      "ends of a net",
      MOST_OF_A_UNIT.connects,
      (n) => ({ nets: [{ ...brae.nets[0], connects: times(n, (i) => `part${i}`) }] }),
      "nets.0.connects",
    ],
    ["codes", MOST_OF_A_UNIT.codes, (n) => ({ codes: times(n, () => brae.codes[0]) }), "codes"],
    [
      "parts of a code",
      MOST_OF_A_UNIT.components,
      (n) => ({ codes: [{ ...brae.codes[0], components: times(n, (i) => `part${i}`) }] }),
      "codes.0.components",
    ],
    ["rows of the chart", MOST_OF_A_UNIT.rows, (n) => ({ application: rows(n, []) }), "application"],
    ["rows of solenoids", MOST_OF_A_UNIT.rows, (n) => ({ solenoidChart: rows(n, {}) }), "solenoidChart"],
    [
      "limits of shifts",
      MOST_OF_A_UNIT.shifts,
      (n) => ({ limits: { shifts: rows(n, { inertiaS: [0, 1], flareRpm: 1, delayS: 1 }) } }),
      "limits.shifts",
    ],
  ])("%s: %d and not one more", (_name, most, make, path) => {
    expect(wrong(make(most), path)).toBe(0);
    expect(wrong(make(most + 1), path)).toBe(1);
  });
});

it("a unit file may leave its ratios to its teeth, and what the train does not give stays missing", () => {
  const file = json("units/brae-p6.unit.json");
  const bare = { ...file, gears: file.gears.map(({ name }: { name: string }) => ({ name })) };
  expect(UnitFile.safeParse(bare).success).toBe(false);
  expect(WrittenUnitFile.parse(bare)).toEqual(file);
  const { gearTrain: _, ...ratioless } = bare;
  const idle = { ...bare, application: { ...file.application, "2": [{ element: "LC" }] } };
  for (const [broken, path] of [
    [ratioless, "gears.0.ratio"],
    [idle, "gears.1.ratio"],
  ] as const)
    expect(WrittenUnitFile.safeParse(broken).error?.issues.map((i) => i.path.join("."))[0]).toBe(path);
});

it("the knowledge keeps to its schemas and is sound", () => {
  const knowledge = parseKnowledge({
    faults: json("knowledge/faults.json"),
    evidence: json("knowledge/evidence.json"),
    checks: json("knowledge/checks.json"),
    observations: json("knowledge/observations.json"),
    debris: json("knowledge/debris.json"),
    bench: json("knowledge/bench.json"),
    repairs: json("knowledge/repairs.json"),
    cautions: json("knowledge/cautions.json"),
  });
  expect(checkKnowledge(knowledge)).toEqual([]);
});

describe("the API description", () => {
  it("refers to schemas that it holds", () => {
    const document = openApiDocument() as { components: { schemas: Record<string, unknown> } };
    const references = [...JSON.stringify(document).matchAll(/#\/components\/schemas\/(\w+)/g)].map(
      (m) => m[1] as string,
    );
    expect(references.length).toBeGreaterThan(Object.keys(API).length);
    for (const r of new Set(references)) expect(document.components.schemas).toHaveProperty(r);
  });
  it("says of every write how it is told from another page's, and of every question what may be left out", () => {
    type Operation = { parameters?: { name: string; in: string; required: boolean }[] };
    const { paths } = openApiDocument() as { paths: Record<string, Record<string, Operation>> };
    for (const route of Object.values(API)) {
      const parameters = paths[route.path.replace(/:(\w+)/g, "{$1}")]?.[route.method]?.parameters ?? [];
      const headers = parameters.filter((p) => p.in === "header").map((p) => p.name);
      expect(headers).toEqual(route.method === "get" ? [] : ["x-gearsense-client", "idempotency-key"]);
    }
    const query = (path: string, method: string) =>
      Object.fromEntries(
        paths[path]?.[method]?.parameters?.filter((p) => p.in === "query").map((p) => [p.name, p.required]) ?? [],
      );
    expect(query("/api/jobs", "get")).toEqual({
      which: false,
      find: false,
      limit: false,
      assignedTo: false,
      after: false,
    });
    expect(query("/api/jobs/{jobId}/logs", "post")).toMatchObject({ fileName: true, label: false });
  });
  it("gives every route that changes something a role", () => {
    // a calendar is made of what is sent, and kept nowhere
    // one's own password is one's own, whatever the role
    // a fresh machine is set up by who has the code of its terminal
    const changesNothing = new Set(["signIn", "signOut", "ownPassword", "calendar", "setUp"]);
    for (const [name, r] of Object.entries(API))
      if (r.method !== "get" && !changesNothing.has(name)) expect(["technician", "owner"]).toContain(r.role);
  });
});

it("codes are upper-cased, and trimmed text counts as empty", () => {
  const code = NewEntry.parse({
    kind: "code",
    body: { code: " p0730 ", text: "", module: "", triage: "unclear", reason: "" },
    baseSeq: 0,
  });
  expect(code.body).toMatchObject({ code: "P0730" });
  expect(NewEntry.safeParse({ kind: "note", body: { text: "   " }, baseSeq: 0 }).success).toBe(false);
});
