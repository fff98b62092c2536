import type { EntryBodies } from "../job/index.ts";
import { componentName, type GearObservation, type Unit } from "../unit/index.ts";

type Code = Pick<EntryBodies["code"], "code" | "text" | "freezeFrame">;

/** What a code says that many makers share, beyond the codes of the unit file. */
export type GenericMeaning =
  | { readonly kind: "ratio"; readonly gear: string }
  | { readonly kind: "solenoid"; readonly component: string; readonly how: "electrical" | "stuck" };

/** Gear of an "incorrect ratio" code. Source: SAE J2012. */
const RATIO_CODES: Readonly<Record<string, string>> = {
  P0731: "1",
  P0732: "2",
  P0733: "3",
  P0734: "4",
  P0735: "5",
  P0729: "6",
  P0736: "R",
};

/** First code of the family of each shift solenoid, A to E: five codes each. Source: SAE J2012. */
const SOLENOID_BASES = [0x0750, 0x0755, 0x0760, 0x0765, 0x0770] as const;
/** By place in a family: malfunction, stuck off, stuck on, electrical, intermittent. */
const FAMILY = ["electrical", "stuck", "stuck", "electrical", "electrical"] as const;

const hex = (n: number) => `P${n.toString(16).toUpperCase().padStart(4, "0")}`;

/** Gear that a name and value of a freeze frame give: "Gear commanded: 4", "Gear: Reverse". */
function gearOfFrame(unit: Unit, frame: Code["freezeFrame"]): string | undefined {
  for (const [name, value] of Object.entries(frame ?? {})) {
    if (!/\bgear\b/i.test(name) || /ratio|oil|fluid|box/i.test(name)) continue;
    const said = /^\s*(?:gear\s*)?(?:([1-9]\d?)(?:st|nd|rd|th)?|(r)(?:everse)?)\s*$/i.exec(value);
    const gear = said?.[1] ?? (said?.[2] ? "R" : undefined);
    if (gear && unit.gears.some((g) => g.name === gear)) return gear;
  }
  return undefined;
}

/**
 * Reads a code by its number or its text.
 * @returns undefined for a code whose meaning the unit file gives, or that says nothing of a gear or a valve
 */
export function genericMeaning(unit: Unit, { code, text, freezeFrame }: Code): GenericMeaning | undefined {
  const own = unit.codes.find((c) => c.code === code);
  const gears = (g: string | undefined) => (g && unit.gears.some((x) => x.name === g) ? g : undefined);
  // a ratio code without a gear says which one in its freeze frame
  if (own) {
    const about = own.components.some((c) => unit.elements.some((e) => e.id === c));
    const gear = about && /ratio/i.test(`${own.text} ${text}`) ? gearOfFrame(unit, freezeFrame) : undefined;
    return gear ? { kind: "ratio", gear } : undefined;
  }
  const said =
    /\bgear\s+(\d{1,2}|r\b|reverse)\D{0,12}\bincorrect\b.*\bratio|\b(\d{1,2})(?:st|nd|rd|th)?\s+gear\b.{0,12}\bincorrect\b.*\bratio|\b(reverse)\b.{0,12}\bincorrect\b.*\bratio/i.exec(
      text,
    );
  const word = said?.[1] ?? said?.[2] ?? said?.[3];
  const gear = gears(word === undefined ? RATIO_CODES[code] : /^r/i.test(word) ? "R" : word);
  if (gear) return { kind: "ratio", gear };
  const number = Number.parseInt(code.slice(1), 16);
  const base = code.startsWith("P") ? SOLENOID_BASES.find((b) => number > b && number < b + 5) : undefined;
  const letter = /\bshift\s+solenoid\s+["“]?([A-E])\b/i.exec(text)?.[1]?.toUpperCase();
  const family = base ?? (letter ? SOLENOID_BASES["ABCDE".indexOf(letter)] : undefined);
  if (family === undefined) return undefined;
  const component = unit.codes
    .find((c) => c.code === hex(family))
    ?.components.find((c) => unit.solenoids.some((s) => s.id === c));
  if (!component) return undefined;
  const how =
    base === undefined
      ? /stuck|performance/i.test(text)
        ? "stuck"
        : "electrical"
      : (FAMILY[number - base] ?? "electrical");
  return { kind: "solenoid", component, how };
}

/** Gears whose ratio the control unit found wrong, for the application chart. */
export function ratioObservations(unit: Unit, codes: readonly Code[]): GearObservation[] {
  return codes.flatMap((c): GearObservation[] => {
    const meaning = genericMeaning(unit, c);
    return meaning?.kind === "ratio" ? [{ gear: meaning.gear, outcome: "bad" }] : [];
  });
}

/**
 * Parts of the unit that a freeze frame names, by id or by name: "Fork 4-R", "F4R position lost". What stands in a name
 * of a field alone is not meant: every frame of the tool has it.
 */
export function partsOfFrame(unit: Unit, frame: Code["freezeFrame"]): string[] {
  const plain = (s: string) =>
    ` ${s
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, " ")
      .trim()} `;
  const values = Object.values(frame ?? {}).map(plain);
  const parts = [...unit.elements, ...unit.solenoids, ...unit.sensors, ...unit.nets].map((c) => c.id);
  return parts.filter((id) =>
    // "Clutch K2 (2, 4, 6, R)" is called clutch K2
    [plain(id), plain(componentName(unit, id).replace(/\s*\(.*\)/, ""))].some(
      (name) => name.trim() !== "" && values.some((v) => v.includes(name)),
    ),
  );
}
