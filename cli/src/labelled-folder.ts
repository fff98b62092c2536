import { existsSync, readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";
import { LabelsFile } from "@gearsense/contract";
import type { LabelledLog } from "@gearsense/evaluation";
import { readUnit } from "./units.ts";
import { UsageError } from "./usage-error.ts";

const LOGS = ["log.csv", "log.csv.gz"];

/**
 * The labelled logs of a folder: each in a folder of its own with `log.csv` or `log.csv.gz`, one `*.unit.json` and
 * `labels.json` (docs/formats.md).
 * @throws UsageError naming the file that is missing or wrong
 */
export function readLabelledFolder(folder: string): LabelledLog[] {
  let names: string[];
  try {
    names = readdirSync(folder, { withFileTypes: true })
      .filter((e) => e.isDirectory() && existsSync(join(folder, e.name, "labels.json")))
      .map((e) => e.name)
      .sort();
  } catch {
    throw new UsageError(`${folder} is not a folder that can be read. Check the path.`);
  }
  if (names.length === 0)
    throw new UsageError(
      `${folder} holds no labelled log: a folder for each, with log.csv, a *.unit.json and labels.json.`,
    );
  return names.map((name) => {
    const own = join(folder, name);
    const log = LOGS.map((f) => join(own, f)).find(existsSync);
    const unit = readdirSync(own).find((f) => f.endsWith(".unit.json"));
    if (!log || !unit) throw new UsageError(`${own}: ${log ? "a *.unit.json" : "log.csv or log.csv.gz"} is missing.`);
    let json: unknown;
    try {
      json = JSON.parse(readFileSync(join(own, "labels.json"), "utf8"));
    } catch (error) {
      throw new UsageError(`${own}/labels.json can't be read: ${error instanceof Error ? error.message : error}`);
    }
    const labels = LabelsFile.safeParse(json);
    if (!labels.success) {
      const [issue] = labels.error.issues;
      throw new UsageError(`${own}/labels.json: ${issue?.path.join(".")}: ${issue?.message}`);
    }
    return { name, unit: readUnit(join(own, unit)), labels: labels.data, bytes: readFileSync(log) };
  });
}
