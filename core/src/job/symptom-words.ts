import type { Symptom } from "./vocabulary.ts";

/** A complaint in one or two words. */
export const SYMPTOM_WORDS: Readonly<Record<Symptom["kind"], string>> = {
  slip: "slips",
  harsh: "harsh shift",
  shudder: "shudders",
  limp: "limp mode",
  "no-drive": "no drive",
  late: "late engagement or shift",
  noise: "noise",
  leak: "leak",
  "warning-light": "warning light",
};
