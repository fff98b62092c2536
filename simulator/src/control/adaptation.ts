import type { Unit } from "@gearsense/core/unit";
import type { Pack } from "../physics/hydraulics.ts";
import type { ShiftLesson } from "./shift.ts";

const FLARE_RPM = 45;
const LATE_S = 0.07;
const EARLY_S = -0.07;
const STEP_S = 0.004;
const LINE_STEP_PER_S = 0.01;
const LINE_MOST = 0.1;

/** What the controller has learned: fill times, touch points, a trim of the line pressure. */
export class Adaptation {
  /** at 70 °C, by pack */
  readonly fillS: Float64Array;
  /** of dual clutches, by pack; the pack's own otherwise */
  readonly touchKpa: Float64Array;
  /** share added to the line pressure */
  lineTrim = 0;
  private readonly fillLimitsS: readonly (readonly [number, number])[];
  private readonly touchLimitsKpa: readonly (readonly [number, number])[];
  /** by pack, what its last shift asked for: a first one may be chance */
  private readonly askedS: Float64Array;
  /** how eagerly it learns; a relearn is quicker */
  speed = 1;
  /** by pack, power upshifts that it could learn from since {@link reset} */
  readonly lessons: Float64Array;

  /** @param fillS - what was learned of each pack before this drive, s; those of a new unit where left out */
  constructor(unit: Unit, packs: readonly Pack[], fillS?: Float64Array) {
    const of = (id: string, unitOf: string) => unit.adaptations?.find((a) => a.component === id && a.unit === unitOf);
    this.fillS = Float64Array.from(fillS ?? packs.map((p) => p.fillS));
    this.askedS = new Float64Array(packs.length);
    this.lessons = new Float64Array(packs.length);
    this.touchKpa = Float64Array.from(packs, (p) => p.kissKpa);
    this.fillLimitsS = packs.map((p) => {
      const [low, high] = of(p.id, "ms")?.limits ?? [70, 190];
      return [low / 1000, high / 1000];
    });
    this.touchLimitsKpa = packs.map((p) => of(p.id, "kPa")?.limits ?? [0, Number.POSITIVE_INFINITY]);
  }

  /** One power upshift's lesson: two that ask for the same, one after the other, are heeded. Cold or hard shifts teach nothing. */
  learn(lesson: ShiftLesson, torqueNm: number, fluidC: number): void {
    if (fluidC < 50 || fluidC > 125 || torqueNm < 20) return;
    const { pack, flareRpm, lateS } = lesson;
    this.lessons[pack] = (this.lessons[pack] as number) + 1;
    let step = 0;
    // many lessons in one stop where the shift would be in time: each step takes off about as much
    let lessons = this.speed;
    if (flareRpm > FLARE_RPM) step = STEP_S;
    else if (lateS > LATE_S) {
      step = STEP_S;
      lessons = Math.min(lessons, Math.max(1, (lateS - LATE_S) / STEP_S));
    } else if (lateS < EARLY_S) {
      step = -STEP_S / 2;
      lessons = Math.min(lessons, Math.max(1, (2 * (EARLY_S - lateS)) / STEP_S));
    }
    const again = this.askedS[pack] === step;
    this.askedS[pack] = step;
    if (!again) return;
    const [low, high] = this.fillLimitsS[pack] as readonly [number, number];
    this.fillS[pack] = Math.min(high, Math.max(low, (this.fillS[pack] as number) + step * lessons));
  }

  /** Touch points follow what was seen, within their limits. @param seenKpa - by pack, NaN when not seen */
  seeTouch(seenKpa: Float64Array): void {
    for (let i = 0; i < seenKpa.length; i++) {
      const seen = seenKpa[i] as number;
      if (Number.isNaN(seen)) continue;
      const [low, high] = this.touchLimitsKpa[i] as readonly [number, number];
      const now = this.touchKpa[i] as number;
      this.touchKpa[i] = Math.min(high, Math.max(low, now + 0.25 * this.speed * (seen - now)));
    }
  }

  /** @returns true once the trim is at its end */
  raiseLine(dtS: number): boolean {
    this.lineTrim = Math.min(LINE_MOST, this.lineTrim + LINE_STEP_PER_S * dtS);
    return this.lineTrim >= LINE_MOST;
  }

  /** Values as a scan tool reads them, by the adaptations of the unit file. */
  read(unit: Unit, packs: readonly Pack[]): Record<string, number> {
    const out: Record<string, number> = {};
    for (const a of unit.adaptations ?? []) {
      const i = packs.findIndex((p) => p.id === a.component);
      if (i < 0) continue;
      if (a.unit === "ms") out[a.id] = Math.round((this.fillS[i] as number) * 1000);
      if (a.unit === "kPa") out[a.id] = Math.round(this.touchKpa[i] as number);
    }
    return out;
  }

  /** Takes over what was learned on earlier drives, as {@link read} gives it; what is not named stays. */
  adopt(unit: Unit, packs: readonly Pack[], values: Readonly<Record<string, number>>): void {
    for (const a of unit.adaptations ?? []) {
      const i = packs.findIndex((p) => p.id === a.component);
      const value = values[a.id];
      if (i < 0 || value === undefined) continue;
      if (a.unit === "ms") this.fillS[i] = value / 1000;
      if (a.unit === "kPa") this.touchKpa[i] = value;
    }
  }

  /** Back to the values of a new unit; the next drives learn anew. */
  reset(packs: readonly Pack[]): void {
    packs.forEach((p, i) => {
      this.fillS[i] = p.fillS;
      this.touchKpa[i] = p.kissKpa;
    });
    this.lineTrim = 0;
    this.lessons.fill(0);
  }

  /** Does the learned fill time of a pack stand at an end of what it may be? */
  atLimit(pack: number): boolean {
    const [low, high] = this.fillLimitsS[pack] as readonly [number, number];
    const now = this.fillS[pack] as number;
    return now <= low || now >= high;
  }
}
