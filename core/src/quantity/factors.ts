/**
 * One of a customary unit in ours. Exact by the international yard and pound (1959): inch 25.4 mm, mile 1609.344 m, pound
 * 0.45359237 kg; standard gravity 9.80665 m/s²; US gallon 231 cubic inches.
 */
export const KM_PER_MILE = 1.609344;
export const MM_PER_INCH = 25.4;
export const NM_PER_LBF_FT = 1.3558179483314;
export const KPA_PER_PSI = 6.894757293168;
export const L_PER_QUART = 0.946352946;
/** conventional inch of mercury at 0 °C */
export const KPA_PER_INHG = 3.386389;
/** degrees Fahrenheit in one of Celsius, and where both scales begin */
export const F_PER_C = 1.8;
export const F_AT_0_C = 32;
