import { readdirSync, readFileSync } from "node:fs";
import type { Knowledge } from "../../knowledge/index.ts";
import type { Unit } from "../../unit/index.ts";
import type { Procedure } from "../index.ts";

const folder = (name: string) => new URL(`../../../../library/${name}/`, import.meta.url);
const json = <T>(path: URL): T => JSON.parse(readFileSync(path, "utf8")) as T;
const all = <T>(name: string, ending: string): T[] =>
  readdirSync(folder(name))
    .filter((f) => f.endsWith(ending))
    .sort()
    .map((f) => json<T>(new URL(f, folder(name))));

/** What is shipped. */
export const PROCEDURES = all<Procedure>("procedures", ".procedure.json");
export const UNITS = all<Unit>("units", ".unit.json");
const { cautions, holds } = json<Pick<Knowledge, "cautions" | "holds">>(new URL("cautions.json", folder("knowledge")));
const { repairs } = json<Pick<Knowledge, "repairs">>(new URL("repairs.json", folder("knowledge")));
export const NAMES = { cautions, holds, repairs };

export const unitOf = (id: string): Unit => UNITS.find((u) => u.id === id) as Unit;
