import { readFileSync } from "node:fs";
import type { Unit } from "@gearsense/core/unit";

/** A unit of the library, for tests. */
export const load = (id: string): Unit =>
  JSON.parse(readFileSync(new URL(`../../../library/units/${id}.unit.json`, import.meta.url), "utf8")) as Unit;
