/** What is really there, beside what sensors tell. */
export interface Reality {
  engineRpm: number;
  inputRpm: number;
  outputRpm: number;
  vehicleKmh: number;
  /** by wheels of the radius in the unit file */
  shownKmh: number;
  engineNm: number;
  fluidC: number;
  /** hottest of the dual clutches */
  clutchC: number;
  shaftNm: number;
}
