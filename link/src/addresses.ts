/** Who is asked and who answers on a bus with 11-bit identifiers, ISO 15765-4. */
export interface EcuAddress {
  readonly name: "engine" | "transmission";
  readonly request: number;
  readonly response: number;
}

/** Asks everybody; only single frames. */
export const FUNCTIONAL = 0x7df;
export const ENGINE: EcuAddress = { name: "engine", request: 0x7e0, response: 0x7e8 };
export const TRANSMISSION: EcuAddress = { name: "transmission", request: 0x7e1, response: 0x7e9 };
export const ECUS: readonly EcuAddress[] = [ENGINE, TRANSMISSION];
