export type Range = "P" | "R" | "N" | "D";

/** A stretch of road as the driver drives it. */
export interface Phase {
  readonly seconds: number;
  readonly targetKmh: number;
  /** most pedal the driver gives, 0…1 */
  readonly pedal: number;
  /** rise over run */
  readonly grade: number;
  /** lever; D where left out */
  readonly range?: Range;
  /** how hard the brakes are used to slow down, m/s²; 2 where left out; 0 rolls out */
  readonly brakeMS2?: number;
}

const at = (seconds: number, targetKmh: number, pedal: number, grade = 0, more: Partial<Phase> = {}): Phase => ({
  seconds,
  targetKmh,
  pedal,
  grade,
  ...more,
});
const rest = (seconds: number) => at(seconds, 0, 0);
const START: readonly Phase[] = [at(3, 0, 0, 0, { range: "P" }), at(3, 0, 0)];
const BACKWARD: readonly Phase[] = [
  at(2.5, 0, 0, 0, { range: "P" }),
  at(3, 0, 0, 0, { range: "R" }),
  at(6, 7, 0.25, 0, { range: "R" }),
  at(4, 0, 0, 0, { range: "R" }),
  at(2.5, 0, 0),
];

/** Drives by name; each repeats when the log is longer. */
export const PROFILES = {
  town: [
    ...START,
    at(24, 48, 0.3),
    at(8, 48, 0.3),
    at(13, 0, 0),
    rest(4),
    at(26, 55, 0.45),
    at(10, 55, 0.4),
    at(15, 0, 0),
  ],
  hill: [
    ...START,
    at(22, 62, 0.55, 0.02),
    at(30, 70, 0.75, 0.06),
    at(16, 70, 0.4),
    at(18, 40, 0.3),
    at(26, 76, 0.9, 0.05),
    at(20, 0, 0),
  ],
  "steep-hill": [
    ...START,
    at(14, 30, 0.5),
    at(26, 30, 0.95, 0.17),
    at(8, 56, 0.35),
    at(16, 56, 0.4),
    at(26, 56, 0.95, 0.085),
    at(10, 72, 0.4),
    at(20, 72, 0.9, 0.055),
    at(18, 0, 0),
  ],
  motorway: [
    ...START,
    at(30, 90, 0.7),
    at(50, 115, 0.5),
    at(20, 112, 0.4, 0.03),
    at(30, 120, 0.45),
    at(20, 95, 0.3),
    at(35, 0, 0),
  ],
  "school-run": [
    ...BACKWARD,
    at(14, 32, 0.3),
    at(8, 0, 0),
    rest(3),
    at(18, 45, 0.35),
    at(10, 0, 0),
    rest(5),
    at(12, 30, 0.25),
    at(8, 0, 0, 0, { range: "D" }),
    at(5, 0, 0, 0, { range: "P" }),
    at(2, 0, 0),
    at(20, 50, 0.4),
    at(14, 0, 0),
  ],
  "stop-and-go": [
    ...START,
    ...Array.from({ length: 5 }, () => [
      at(7, 22, 0.28),
      at(5, 0, 0),
      rest(2),
      at(5, 9, 0.12),
      at(3, 0, 0),
      rest(2),
    ]).flat(),
  ],
  "kick-down": [
    ...START,
    at(20, 62, 0.45),
    at(9, 62, 0.35),
    at(11, 112, 1),
    at(12, 70, 0.3),
    at(8, 70, 0.35),
    at(10, 118, 1),
    at(28, 0, 0),
  ],
  "coast-to-stop": [
    ...START,
    at(22, 66, 0.45),
    at(32, 0, 0, 0.01, { brakeMS2: 0.25 }),
    rest(3),
    at(20, 58, 0.4),
    at(34, 0, 0, 0, { brakeMS2: 0.45 }),
    rest(3),
  ],
  "cold-start": [
    ...BACKWARD,
    at(22, 42, 0.25),
    at(9, 42, 0.3),
    at(12, 0, 0),
    rest(3),
    at(26, 60, 0.4),
    at(12, 60, 0.3),
    at(16, 0, 0),
  ],
  hot: [
    ...START,
    at(24, 58, 0.6, 0.05),
    at(26, 66, 0.8, 0.08),
    at(8, 20, 0.2),
    at(22, 62, 0.7, 0.07),
    at(16, 0, 0),
    rest(4),
    at(20, 50, 0.4),
    at(14, 0, 0),
  ],
  "coast-road": [
    ...START,
    at(26, 70, 0.4),
    at(40, 84, 0.32, 0.012),
    at(30, 90, 0.4, 0.02),
    at(20, 62, 0.3),
    at(40, 92, 0.35, 0.015),
    at(28, 0, 0),
  ],
  mixed: [
    ...START,
    at(24, 50, 0.32),
    at(11, 0, 0),
    rest(3),
    at(24, 66, 0.6),
    at(26, 78, 0.5, 0.03),
    at(20, 94, 0.9),
    at(36, 96, 0.45, 0.025),
    at(16, 60, 0.2),
    at(22, 90, 0.75, 0.045),
    at(24, 86, 0.3),
    at(28, 0, 0),
  ],
} as const satisfies Record<string, readonly Phase[]>;

export type ProfileName = keyof typeof PROFILES;

/** Fluid temperature that a drive begins with, where the caller states none, °C. */
export const startFluidC = (profile: ProfileName): number =>
  profile === "cold-start" ? 2 : profile === "hot" ? 92 : profile === "motorway" ? 70 : 55;
