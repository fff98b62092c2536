/** Weights by position and values of letters. Source: ISO 3779 / 49 CFR 565. */
const WEIGHTS = [8, 7, 6, 5, 4, 3, 2, 10, 0, 9, 8, 7, 6, 5, 4, 3, 2];
const LETTERS: Readonly<Record<string, number>> = {
  A: 1,
  B: 2,
  C: 3,
  D: 4,
  E: 5,
  F: 6,
  G: 7,
  H: 8,
  J: 1,
  K: 2,
  L: 3,
  M: 4,
  N: 5,
  P: 7,
  R: 9,
  S: 2,
  T: 3,
  U: 4,
  V: 5,
  W: 6,
  X: 7,
  Y: 8,
  Z: 9,
};
const CHECK_AT = 8;

export type VinVerdict =
  | { readonly ok: true; readonly vin: string }
  | { readonly ok: false; readonly code: "length" | "character" | "check-digit"; readonly message: string };

/** The check digit that belongs to 17 characters, whatever stands in its place. @param vin - capitals, no I, O, Q */
export function vinCheckDigit(vin: string): string {
  const sum = [...vin].reduce((s, c, i) => s + (LETTERS[c] ?? Number(c)) * (WEIGHTS[i] as number), 0);
  const rest = sum % 11;
  return rest === 10 ? "X" : String(rest);
}

/** Form and check digit of a vehicle identification number. A wrong digit is said, not refused: some makers do not use it. */
export function checkVin(typed: string): VinVerdict {
  const vin = typed.replace(/[\s-]/g, "").toUpperCase();
  if (vin.length !== 17)
    return { ok: false, code: "length", message: `A VIN has 17 characters; this has ${vin.length}.` };
  const at = [...vin].findIndex((c) => !/[0-9A-HJ-NPR-Z]/.test(c));
  if (at >= 0)
    return {
      ok: false,
      code: "character",
      message: `Character ${at + 1} is "${vin[at]}": a VIN has no ${/[IOQ]/.test(vin[at] as string) ? "I, O or Q; it may be 1 or 0" : "such character"}.`,
    };
  if (vin[CHECK_AT] !== vinCheckDigit(vin))
    return {
      ok: false,
      code: "check-digit",
      message: `The check digit (character 9) should be ${vinCheckDigit(vin)}: mistyped, or a maker who does not use it. Compare it with the plate.`,
    };
  return { ok: true, vin };
}
