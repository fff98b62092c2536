import Papa from "papaparse";

export interface ReadCode {
  /** without its failure-type suffix */
  readonly code: string;
  readonly module: string;
  readonly text: string;
  readonly status: "stored" | "pending" | "permanent" | undefined;
  readonly freezeFrame: Readonly<Record<string, string>>;
  /** from 1 */
  readonly line: number;
}

export interface CodeReport {
  readonly codes: readonly ReadCode[];
  /** modules that were named, with or without codes */
  readonly modules: readonly string[];
  /** lines that were not read */
  readonly unread: readonly { readonly line: number; readonly text: string }[];
}

/** A trouble code with an optional failure type. Source: SAE J2012. */
const CODE = /\b([PCBU][0-3][0-9A-F]{3})(?:[-:. ]([0-9A-F]{2}))?\b/i;
const CODES = new RegExp(CODE, "gi");
const STATUS: readonly (readonly [NonNullable<ReadCode["status"]>, RegExp])[] = [
  ["pending", /\bpending\b|\bsporadic\b|\bintermittent\b/i],
  ["permanent", /\bpermanent\b/i],
  ["stored", /\b(?:stored|confirmed|active|current|present|history|static)\b/i],
];
const MOST_CHARACTERS = 400_000;
const MOST_CODES = 500;

const statusOf = (text: string): ReadCode["status"] => STATUS.find(([, rule]) => rule.test(text))?.[0];
const tidy = (text: string) => text.replace(/^[\s:;,.|=/&+–-]+|[\s:;,|=/&+–-]+$/g, "").replace(/\s+/g, " ");
/** text of a line without its code and the word of its state */
const meaning = (rest: string) =>
  tidy(
    rest
      .replace(
        /[([]?\b(?:pending|permanent|stored|confirmed|active|current|present|history|static|sporadic|intermittent)\b(?: code| fault)?[)\]]?/gi,
        "",
      )
      .replace(/\(\s*\)|\[\s*\]/g, ""),
  ).slice(0, 200);

/** "Module: Brakes", "[ABS]", "== Engine ==", "Transmission control (2 codes)". @returns its name */
function headingOf(line: string): string | undefined {
  const named = /^\s*(?:module|system|ecu|control unit|unit)\s*[:=]\s*(.+)$/i.exec(line);
  const framed = /^\s*(?:\[(.+)\]|[=#*-]{2,}\s*(.+?)\s*[=#*-]{2,})\s*$/.exec(line);
  const counted =
    /^\s*([A-Za-z][\w /&-]{2,60}?)\s*[:(–-]?\s*\(?\s*(?:\d+|no)\s+(?:codes?|faults?|dtcs?|entries)\b.*$/i.exec(line);
  const modular = /^\s*([A-Za-z][\w /&-]{1,60}?(?:module|control unit|controller))\s*:?\s*$/i.exec(line);
  const name = named?.[1] ?? framed?.[1] ?? framed?.[2] ?? counted?.[1] ?? modular?.[1];
  return name && tidy(name.replace(/\s*[-–(:]?\s*\(?(?:\d+|no) (?:codes?|faults?|dtcs?)\)?.*$/i, "")).slice(0, 80);
}

const NOTHING =
  /^\s*(?:[-=_*#.]{2,}|page \d+.*|freeze frame.*|no (?:codes?|faults?|dtcs?).*|(?:ok|pass(?:ed)?)\.?|end of report.*|)\s*$/i;

/** A table with a column of codes. @returns undefined when the text isn't one */
function readTable(text: string): CodeReport | undefined {
  const { data } = Papa.parse<string[]>(text, { skipEmptyLines: false });
  const at = data
    .slice(0, 15)
    .findIndex((row) => row.length > 1 && row.some((c) => /^\s*(?:code|dtc|fault code|trouble code)s?\s*$/i.test(c)));
  const header = data[at]?.map((h) => h.trim());
  if (!header) return undefined;
  const column = (rule: RegExp) => header.findIndex((h) => rule.test(h));
  const code = column(/^(?:code|dtc|fault code|trouble code)s?$/i);
  const module = column(/module|system|ecu|control unit/i);
  const words = column(/text|meaning|description|name/i);
  const status = column(/status|state/i);
  const known = new Set([code, module, words, status]);
  const codes: ReadCode[] = [];
  const unread: { line: number; text: string }[] = [];
  const modules = new Set<string>();
  data.forEach((row, i) => {
    if (i === at || row.every((c) => c.trim() === "")) return;
    const hit = i > at ? CODE.exec(row[code] ?? "") : undefined;
    if (!hit) {
      unread.push({ line: i + 1, text: row.join(", ").slice(0, 200) });
      return;
    }
    const name = (row[module] ?? "").trim().slice(0, 80);
    if (name) modules.add(name);
    codes.push({
      code: (hit[1] as string).toUpperCase(),
      module: name,
      text: meaning(row[words] ?? ""),
      status: statusOf(row[status] ?? ""),
      freezeFrame: Object.fromEntries(
        row.flatMap((v, k) =>
          !known.has(k) && header[k] && v.trim() !== ""
            ? [[(header[k] as string).slice(0, 60), v.trim().slice(0, 60)]]
            : [],
        ),
      ),
      line: i + 1,
    });
  });
  return { codes, modules: [...modules], unread };
}

type Writable<T> = {
  -readonly [K in keyof T]: T[K] extends Readonly<Record<string, string>> ? Record<string, string> : T[K];
};

/** A report as a scan tool prints it, line by line. */
function readLines(text: string): CodeReport {
  const codes: Writable<ReadCode>[] = [];
  const unread: { line: number; text: string }[] = [];
  const modules = new Set<string>();
  let module = "";
  let last: (typeof codes)[number] | undefined;
  text.split(/\r\n|\r|\n/).forEach((line, i) => {
    const hits = [...line.matchAll(CODES)];
    const [hit] = hits;
    if (hit) {
      const before = tidy(line.slice(0, hit.index));
      const word = /^(?:codes?|dtcs?|faults?|trouble codes?|no|nr)?\W*\d*$/i.test(before);
      // "TCM  P0730  Incorrect gear ratio": what stands before the code names the module
      const own =
        !word && /^[A-Za-z][\w /&-]{1,40}$/.test(before) && !/^(?:code|dtc|fault|no|nr)\b/i.test(before)
          ? before
          : module;
      if (own) modules.add(own);
      hits.forEach((h, k) => {
        const said = meaning(line.slice(h.index + h[0].length, hits[k + 1]?.index));
        last = {
          code: (h[1] as string).toUpperCase(),
          module: own,
          // what stands before the first code and names no module is part of what is said of it
          text: k === 0 && !word && own !== before ? tidy(`${before} ${said}`) : said.replace(/^and$/i, ""),
          status: statusOf(line),
          freezeFrame: {},
          line: i + 1,
        };
        codes.push(last);
      });
      return;
    }
    const heading = headingOf(line);
    if (heading && !/^freeze/i.test(heading)) {
      module = heading;
      modules.add(heading);
      last = undefined;
      return;
    }
    if (NOTHING.test(line)) return;
    const status = /^\s*(?:status|state)\s*[:=]\s*(.+)$/i.exec(line);
    if (last && status) {
      last.status = statusOf(status[1] as string) ?? last.status;
      return;
    }
    const pair = /^\s*([A-Za-z][^:=\t]{1,58}?)\s*(?:[:=]|\t)\s*(\S.{0,58})\s*$/.exec(line);
    if (last && pair) {
      last.freezeFrame[(pair[1] as string).trim()] = (pair[2] as string).trim();
      return;
    }
    if (last && last.text === "") {
      last.text = meaning(line);
      return;
    }
    unread.push({ line: i + 1, text: line.trim().slice(0, 200) });
  });
  return { codes, modules: [...modules], unread };
}

export class CodeTextError extends Error {
  readonly code: "empty" | "too-long" | "no-code";
  constructor(code: CodeTextError["code"], message: string) {
    super(message);
    this.code = code;
  }
}

/**
 * Trouble codes out of whatever a scan tool printed: a report in lines under headings of modules, or a table. Nothing is
 * dropped: lines that were not read are returned.
 * @throws CodeTextError when there isn’t text, too much of it, or no code in it
 */
export function readCodes(text: string): CodeReport {
  if (text.trim() === "")
    throw new CodeTextError("empty", "There isn’t text. Paste the report of the scan tool, or choose its file.");
  if (text.length > MOST_CHARACTERS)
    throw new CodeTextError(
      "too-long",
      `The text has ${Math.ceil(text.length / 1000)} thousand characters; a code report has up to 400. Paste the codes alone.`,
    );
  const report = readTable(text) ?? readLines(text);
  if (report.codes.length === 0)
    throw new CodeTextError(
      "no-code",
      'No trouble code was found in the text: a letter P, C, B or U and four digits, such as P0730. If the tool says that there is none, say so with "All codes are read".',
    );
  if (report.codes.length > MOST_CODES)
    throw new CodeTextError(
      "too-long",
      `${report.codes.length} codes are more than one vehicle has. Paste the report of one vehicle.`,
    );
  return report;
}
