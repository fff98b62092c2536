import { readFileSync } from "node:fs";
import { parseKnowledge } from "@gearsense/contract";
import type { Knowledge } from "@gearsense/core/suspect";

const FOLDER = new URL("../../library/knowledge/", import.meta.url);
const json = (name: string): unknown => JSON.parse(readFileSync(new URL(`${name}.json`, FOLDER), "utf8"));

/** The diagnostic knowledge of the library. */
export const libraryKnowledge = (): Knowledge =>
  parseKnowledge({
    faults: json("faults"),
    evidence: json("evidence"),
    checks: json("checks"),
    observations: json("observations"),
    debris: json("debris"),
    bench: json("bench"),
    repairs: json("repairs"),
    cautions: json("cautions"),
  });
