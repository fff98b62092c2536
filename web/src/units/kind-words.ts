/** Kinds of unit as a person says them. */
export const KIND_WORDS = {
  planetary: "planetary",
  "dct-wet": "wet dual clutch",
  "dct-dry": "dry dual clutch",
} as const;
