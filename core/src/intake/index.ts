export { type Offer, readComplaint } from "./complaint.ts";
export { checkVin, type VinVerdict, vinCheckDigit } from "./vin.ts";
