/** Kinds of unit as a person says them. */
export const KIND_WORDS = {
  planetary: "planetary",
  "dct-wet": "wet dual clutch",
  "dct-dry": "dry dual clutch",
} as const;

export const PAN_SEAL_WORDS = {
  gasket: "gasket, dry",
  moulded: "rubber seal on steel",
  sealant: "sealant, no gasket",
  "sealant-and-gasket": "gasket with sealant",
} as const;
