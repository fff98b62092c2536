import type { FieldSpec } from "./sections.ts";

/** A value of the file as it stands in its field. */
export function showField(spec: FieldSpec, value: unknown): string {
  if (value === undefined || value === null) return "";
  // what could not be read stands as it was typed
  if (typeof value === "string") return value;
  if (spec.type === "json") return JSON.stringify(value);
  if (spec.type === "positions")
    return Object.entries(value)
      .map(([gear, nodes]) => `${gear}: ${(nodes as string[]).join(", ")}`)
      .join("\n");
  if (Array.isArray(value)) return value.join(spec.type === "lines" ? "\n" : ", ");
  return String(value);
}

function fromJson(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    // still being typed: the check names it
    return text;
  }
}

function positionsOf(text: string): unknown {
  const rows = text
    .split("\n")
    .filter((l) => l.trim() !== "")
    .map((l) => /^\s*(R|\d{1,2})\s*:\s*([\w.]+)\s*,\s*([\w.]+)\s*$/.exec(l));
  return rows.some((r) => r === null) ? text : Object.fromEntries(rows.map((r) => [r?.[1], [r?.[2], r?.[3]]]));
}

/**
 * Typed text as the file holds it. What cannot be read stays text, so that it is neither lost nor taken: the check of
 * the file names it.
 */
export function parseField(spec: FieldSpec, text: string): unknown {
  const trimmed = text.trim();
  if (trimmed === "" && (spec.optional || spec.type === "number")) return undefined;
  switch (spec.type) {
    case "number": {
      const value = Number(trimmed.replace(",", ".").replace("−", "-"));
      return Number.isFinite(value) ? value : text;
    }
    case "list":
      if (trimmed === "all") return "all";
      return trimmed === "" ? [] : trimmed.split(/[\s,;]+/);
    case "lines":
      return text.split("\n").filter((l) => l.trim() !== "");
    case "choice":
      return trimmed === "true" ? true : trimmed === "false" ? undefined : trimmed;
    case "json":
      return fromJson(trimmed);
    case "positions":
      return positionsOf(text);
    default:
      return text;
  }
}
