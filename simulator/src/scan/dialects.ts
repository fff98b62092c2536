import { type ExportStyle, PLAIN_STYLE } from "./export.ts";

/** Ways in which scan tools write their files, by name. */
export const DIALECTS = {
  plain: PLAIN_STYLE,
  canonical: { ...PLAIN_STYLE, headers: "canonical", units: "none" },
  "semicolon-comma": {
    ...PLAIN_STYLE,
    delimiter: ";",
    decimalComma: true,
    units: "row",
    time: "clock",
    preamble: ["Recording of the day"],
    byteOrderMark: true,
    newline: "\r\n",
  },
  "tab-imperial": { ...PLAIN_STYLE, delimiter: "\t", headers: "short", imperial: true, time: "ms" },
  "in-turn": { ...PLAIN_STYLE, roundRobin: 2 },
} as const satisfies Record<string, ExportStyle>;

export type DialectName = keyof typeof DIALECTS;
