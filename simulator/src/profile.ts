/** A stretch of road as the driver drives it. */
export interface Phase {
  readonly seconds: number;
  readonly targetKmh: number;
  /** most pedal the driver gives, 0…1 */
  readonly pedal: number;
  /** rise over run */
  readonly grade: number;
}

export type ProfileName = "town" | "hill" | "steep-hill" | "mixed" | "coast-road";

const p = (seconds: number, targetKmh: number, pedal: number, grade = 0): Phase => ({
  seconds,
  targetKmh,
  pedal,
  grade,
});

export const PROFILES: Record<ProfileName, readonly Phase[]> = {
  town: [
    p(4, 0, 0),
    p(22, 48, 0.3),
    p(8, 48, 0.3),
    p(12, 0, 0),
    p(4, 0, 0),
    p(25, 55, 0.45),
    p(10, 55, 0.4),
    p(14, 0, 0),
  ],
  hill: [
    p(3, 0, 0),
    p(22, 62, 0.55, 0.02),
    p(30, 70, 0.75, 0.06),
    p(16, 70, 0.4),
    p(18, 40, 0.3),
    p(26, 76, 0.9, 0.05),
    p(18, 0, 0),
  ],
  "steep-hill": [
    p(3, 0, 0),
    p(14, 30, 0.5),
    p(26, 30, 0.95, 0.17),
    p(8, 56, 0.35),
    p(16, 56, 0.4),
    p(26, 56, 0.95, 0.085),
    p(10, 72, 0.4),
    p(20, 72, 0.9, 0.055),
    p(16, 0, 0),
  ],
  "coast-road": [
    p(3, 0, 0),
    p(26, 70, 0.4),
    p(40, 84, 0.32, 0.012),
    p(30, 90, 0.4, 0.02),
    p(20, 62, 0.3),
    p(40, 92, 0.35, 0.015),
    p(26, 0, 0),
  ],
  mixed: [
    p(4, 0, 0),
    p(24, 50, 0.32),
    p(10, 0, 0),
    p(3, 0, 0),
    p(24, 66, 0.6),
    p(26, 78, 0.5, 0.03),
    p(20, 94, 0.9),
    p(36, 96, 0.45, 0.025),
    p(16, 60, 0.2),
    p(22, 90, 0.75, 0.045),
    p(24, 86, 0.3),
    p(24, 0, 0),
  ],
};

/** The phase at a time; the profile repeats. */
export function phaseAt(profile: readonly Phase[], timeS: number): Phase {
  const total = profile.reduce((s, x) => s + x.seconds, 0);
  let t = timeS % total;
  for (const phase of profile) {
    if (t < phase.seconds) return phase;
    t -= phase.seconds;
  }
  return profile[0] as Phase;
}
