/** A fault put into the simulated vehicle. Torque is input torque in N·m. */
export type SimulatedFault =
  | {
      readonly kind: "element-slip";
      readonly element: string;
      readonly onsetTorqueNm: number;
      readonly rpmPerNm: number;
      readonly minFluidC?: number;
    }
  | { readonly kind: "flare"; readonly shift: string; readonly rpm: number }
  | { readonly kind: "slow-shift"; readonly shift: string; readonly inertiaS: number }
  | {
      readonly kind: "shudder";
      readonly frequencyHz: number;
      readonly peakToPeakRpm: number;
      readonly minTorqueNm: number;
      readonly maxTorqueNm: number;
    }
  | { readonly kind: "converter-slip"; readonly rpm: number }
  | {
      readonly kind: "sensor-dropout";
      readonly sensor: string;
      readonly atS: readonly number[];
      readonly lengthS: number;
      readonly limpAfter: boolean;
    };

/** What was really put into the log. Never shown to the analysis; tests compare findings with it. */
export interface Truth {
  readonly shifts: {
    name: string;
    commandS: number;
    startS: number;
    endS: number;
    flareRpm: number;
    torqueNm: number;
  }[];
  readonly slips: { gear: string; startS: number; endS: number; peakRpm: number; peakTorqueNm: number }[];
  readonly shudder: { startS: number; endS: number; gear: string }[];
  readonly dropouts: { sensor: string; startS: number; endS: number }[];
  limpS: number | undefined;
}
