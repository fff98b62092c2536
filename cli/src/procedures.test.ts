// Guards: procedures and plans on the command line: what is shipped keeps to its schema, a wrong file is refused by its place,
// a plan is told with cautions and holds before what they are for.
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { ProcedureFile } from "@gearsense/contract";
import type { Procedure } from "@gearsense/core/procedure";
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import { run } from "./main.ts";

const LIBRARY = new URL("../../library/procedures/", import.meta.url);
let folder: string;
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), "gearsense-procedure-"));
});
afterAll(() => rmSync(folder, { recursive: true }));

async function call(...argv: string[]): Promise<{ code: number; out: string; err: string }> {
  let [out, err] = ["", ""];
  const code = await run(
    argv,
    (l) => {
      out += `${l}\n`;
    },
    (l) => {
      err += l;
    },
  );
  return { code, out, err };
}

const shipped = (id: string) =>
  JSON.parse(readFileSync(new URL(`${id}.procedure.json`, LIBRARY), "utf8")) as Procedure & { steps: object[] };
const written = (content: unknown): string => {
  const path = join(folder, "own.procedure.json");
  writeFileSync(path, typeof content === "string" ? content : JSON.stringify(content));
  return path;
};

describe("procedure", () => {
  it("takes every shipped file as it is, and nothing of it is lost", () => {
    const files = readdirSync(LIBRARY).filter((f) => f.endsWith(".procedure.json"));
    expect(files.length).toBeGreaterThan(30);
    for (const f of files) {
      const json = JSON.parse(readFileSync(new URL(f, LIBRARY), "utf8"));
      expect(ProcedureFile.parse(json)).toEqual(json);
      expect(f).toBe(`${json.id}.procedure.json`);
    }
  });
  it("says of a sound one for which units it is", async () => {
    const { code, out } = await call("procedure", "check", new URL("lines.procedure.json", LIBRARY).pathname);
    expect(code).toBe(0);
    expect(out).toMatch(/^Cooler lines off and on \(lines\) is sound: 2 steps, for Brae P6, .*Tarn F4\.\n$/);
    expect(out).not.toContain("Machair");
  });
  it.each<[string, () => unknown, RegExp]>([
    ["no JSON", () => "{", /own\.procedure\.json is not a readable procedure/],
    ["another format", () => ({ ...shipped("lines"), format: "x" }), /format: the format is "gearsense-procedure"/],
    [
      "a field that isn’t known",
      () => ({ ...shipped("lines"), steps: [{ ...shipped("lines").steps[0], colour: 1 }] }),
      /steps\.0: .*colour/,
    ],
    [
      "negative minutes",
      () => ({ ...shipped("lines"), steps: [{ ...shipped("lines").steps[0], minutes: [-1, 2, 3] }] }),
      /steps\.0\.minutes\.0: /,
    ],
    [
      "a removal without its refit",
      () => ({ ...shipped("lines"), steps: [shipped("lines").steps[0]] }),
      /lines\/off: nothing undoes it: it would be left over \(Brae P6/,
    ],
  ])("refuses %s by its place", async (_, content, reason) => {
    const { code, err } = await call("procedure", "check", written(content()));
    expect(code).toBe(2);
    expect(err).toMatch(reason);
  });
  it("publishes its schema, and says how it is called", async () => {
    const { out } = await call("procedure", "schema");
    const schema = JSON.parse(out);
    expect(schema.title).toBe("Gearsense procedure");
    expect(schema.properties.steps.items.properties.minutes).toBeDefined();
    expect(await call("procedure")).toMatchObject({ code: 2, err: expect.stringMatching(/procedure check FILE/) });
  });
});

describe("plan", () => {
  it("tells a plan in an order, each caution in full before the first step that needs it", async () => {
    const { code, out } = await call("plan", "--unit", "brae-p6", "--repair", "converter");
    expect(code).toBe(0);
    const at = (text: string) => {
      expect(out).toContain(text);
      return out.indexOf(text);
    };
    expect(at("Hotter fluid scalds.\n")).toBeGreaterThan(at("! The fluid to be drained is under 60 °C"));
    expect(at("Drain plug out")).toBeGreaterThan(at("HOLD: The fluid is under 60 °C"));
    expect(at("Unit up by hand")).toBeGreaterThan(at("HOLD: The converter is home"));
    expect(at("(at most 60\u00a0°C; scald limit of a drain)")).toBeLessThan(at("Drain plug out"));
    expect(out).toMatch(/other ways: unit-out-longitudinal-two/);
  });
  it("takes another way when it is named: two persons are sooner through", async () => {
    const hours = async (...more: string[]) => {
      const { out } = await call("plan", "--unit", "brae-p6", "--repair", "converter", "--json", ...more);
      return JSON.parse(out) as { plan: { procedures: string[] }; order: { totalMin: number } };
    };
    const [alone, two] = [await hours(), await hours("--strategy", "unit-out-longitudinal-two")];
    expect(two.plan.procedures).toContain("unit-out-longitudinal-two");
    expect(two.order.totalMin).toBeLessThan(alone.order.totalMin - 60);
  });
  it("puts several repairs together once", async () => {
    const { out } = await call("plan", "--unit", "tarn-f4", "--repair", "solenoid:S1+fluid", "--json");
    const { plan, order } = JSON.parse(out) as { plan: { steps: { key: string }[] }; order: { steps: object[] } };
    expect(plan.steps.filter((s) => s.key === "pan-down/pan-off")).toHaveLength(1);
    expect(order.steps).toHaveLength(plan.steps.length);
  });
  it.each([
    ["no repair", ["--unit", "brae-p6"], /Name unit and repair/],
    ["an unknown unit", ["--unit", "zz", "--repair", "fluid"], /doesn’t have a unit "zz"/],
    [
      "a repair without a procedure",
      ["--unit", "machair-d6", "--repair", "converter"],
      /Repairs with a procedure.*dual-clutch-pack/,
    ],
    [
      "a way that is none",
      ["--unit", "brae-p6", "--repair", "fluid", "--strategy", "jump"],
      /jump: it isn’t a way of this plan/,
    ],
  ])("refuses %s", async (_, args, reason) => {
    const { code, err } = await call("plan", ...args);
    expect(code).toBe(2);
    expect(err.replace(/\n/g, " ")).toMatch(reason);
  });
});
