import type { JobState } from "../job/index.ts";
import { componentName, type Unit } from "../unit/index.ts";

export interface Triage {
  readonly triage: "complaint" | "earlier-work" | "unclear";
  readonly reason: string;
}

/**
 * What a code is worth before anybody has measured, with the reason. It is offered; the person decides. Ranges by SAE J2012.
 * @param module - as the scan tool named it
 */
export function suggestTriage(unit: Unit, state: JobState, code: string, module = ""): Triage {
  const known = unit.codes.find((c) => c.code === code);
  const history = state.intake?.body.history ?? [];
  const power = history.find((h) => h.kind === "battery" || h.kind === "fuse");
  const shudders = state.intake?.body.symptoms.some((s) => s.kind === "shudder" || s.kind === "harsh") ?? false;
  const cleared = history.some((h) => h.kind === "codes-cleared");
  if (/^U/.test(code))
    return power
      ? {
          triage: "earlier-work",
          reason: `a lost message, and ${power.what || power.kind} is in the history: modules fell silent then`,
        }
      : { triage: "unclear", reason: "a lost message between modules: measure the battery and the supply first" };
  if (/^P056[0-3]$/.test(code))
    return {
      triage: "unclear",
      reason: "system voltage: measure battery and charging before believing any other code",
    };
  if (/^P03(0\d|1[0-2])$/.test(code))
    return {
      triage: shudders ? "complaint" : "unclear",
      reason: "misfire: engine first, a weak cylinder feels like shudder",
    };
  if (code === "P0700")
    return {
      triage: "unclear",
      reason: "it only says that the transmission has stored a code of its own: read that one",
    };
  if (known) {
    const parts = known.components.map((c) => (c === "line-pressure" ? "line pressure" : componentName(unit, c)));
    return {
      triage: "complaint",
      reason: `unit file: speaks of ${parts.join(", ")}${cleared ? "; it came back after the codes were cleared" : ""}`,
    };
  }
  if (/^P07|^P08|^P09|^P27/.test(code))
    return {
      triage: "complaint",
      reason: "a transmission code that the unit file does not know: look it up in the maker's instructions",
    };
  return {
    triage: "unclear",
    reason:
      module && !/trans|tcm|gear/i.test(module)
        ? `stored by ${module}: does it explain the complaint?`
        : "not of the transmission",
  };
}
