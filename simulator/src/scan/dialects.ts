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
  "wide-characters": { ...PLAIN_STYLE, delimiter: "\t", encoding: "utf-16le", byteOrderMark: true, newline: "\r\n" },
  "bare-wide-characters": { ...PLAIN_STYLE, encoding: "utf-16be", time: "iso" },
  "latin-1": { ...PLAIN_STYLE, delimiter: ";", encoding: "latin-1", units: "row", decimalComma: true },
  "gzip-epoch": { ...PLAIN_STYLE, container: "gzip", time: "epoch-s", headers: "joined" },
  "zip-epoch-ms": { ...PLAIN_STYLE, container: "zip", time: "epoch-ms", quoteAll: true },
  long: { ...PLAIN_STYLE, layout: "long" },
  "long-semicolon": {
    ...PLAIN_STYLE,
    layout: "long",
    delimiter: ";",
    decimalComma: true,
    headers: "short",
    time: "ms",
  },
  rough: {
    ...PLAIN_STYLE,
    preamble: ["Scan tool export", "Vehicle: van", ""],
    repeatHeaderEvery: 400,
    truncated: true,
    lost: "sentinel",
    time: "us",
  },
  holes: { ...PLAIN_STYLE, headers: "joined", units: "none", lost: "text" },
  "strange-names": { ...PLAIN_STYLE, headers: "strange" },
  capture: { ...PLAIN_STYLE, layout: "capture", headers: "canonical" },
} as const satisfies Record<string, ExportStyle>;

export type DialectName = keyof typeof DIALECTS;
