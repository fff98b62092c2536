import type { Analysis } from "@gearsense/core/drive";
import { z } from "zod";
import { Span } from "./quantities.ts";

const n = z.number();
const maybe = n.exactOptional();
const Load = z.enum(["coast", "light", "medium", "hard", "unknown"]);
const Temperature = z.enum(["cold", "warm", "hot", "unknown"]);
const group = { gear: z.string(), load: Load, temperature: Temperature };
const Quantity = z.enum([
  "speed-rpm",
  "torque",
  "pressure",
  "temperature",
  "temperature-difference",
  "vehicle-speed",
  "distance",
  "volume",
  "length",
  "duration",
  "frequency",
  "percent",
  "resistance",
  "slip-per-torque",
  "speed-rate",
  "voltage",
  "count",
  "none",
]);
const Measure = z.object({ name: z.string(), value: n, quantity: Quantity });

export const Finding = z
  .object({
    id: z.string(),
    kind: z.enum([
      "slip",
      "wrong-gear",
      "flare",
      "slow-shift",
      "quick-shift",
      "late-shift",
      "failed-shift",
      "converter-slip",
      "converter-stays-on",
      "hunting",
      "shudder",
      "oscillation",
      "judder",
      "sensor-ripple",
      "late-engagement",
      "no-drive",
      "engine-pull",
      "idle",
      "neutral-pull",
      "pressure",
      "cool-down",
      "power-loss",
      "gear-hunting",
      "load-reversal",
      "harsh-shift",
      "stall",
      "heat",
      "adaptation",
      "drop-out",
      "limp",
    ]),
    title: z.string(),
    subject: z.object({
      gear: z.string().exactOptional(),
      shift: z.string().exactOptional(),
      component: z.string().exactOptional(),
    }),
    severity: z.enum(["fault", "notice"]),
    startS: n,
    endS: n,
    occurrences: z.array(z.object({ startS: n, endS: n, value: n })),
    conditions: z.object({
      gears: z.array(z.string()),
      torqueNm: Span.exactOptional(),
      fluidC: Span.exactOptional(),
      vehicleKmh: Span.exactOptional(),
    }),
    measures: z.tuple([Measure], Measure),
    limit: z
      .object({ value: n, quantity: Quantity, source: z.enum(["unit file", "this drive", "typical"]) })
      .exactOptional(),
    confidence: z.object({
      level: z.enum(["high", "medium", "low"]),
      reason: z.string(),
      raise: z.string().exactOptional(),
    }),
  })
  .meta({ id: "Finding" });

const Dropout = z.object({
  sensor: z.string(),
  channel: z.string(),
  startS: n,
  endS: n,
  samples: n,
  gear: z.string(),
  fluidC: maybe,
  kind: z.enum(["zero while moving", "no valid reading", "not D while driving", "frozen"]),
});

const OscillationGroup = z.object({
  ...group,
  seconds: n,
  peakToPeakRpm: n,
  eachWindowRpm: z.array(n),
  frequencyHz: maybe,
});
const VibrationSample = z.object({ gear: z.string(), peakToPeakRpm: n, load: maybe, fluidC: maybe, vehicleKmh: maybe });
const Peak = z.object({ frequencyHz: n, peakToPeak: n, prominence: n });

/** What the analysis of one log says; printed by `./gearsense analyze --json` and stored with the job. */
export const AnalysisFile: z.ZodType<Analysis> = z
  .object({
    format: z.literal("gearsense-analysis"),
    version: z.int(),
    unitId: z.string(),
    unitVersion: z.int(),
    durationS: n,
    rateHz: n,
    ratioFit: z.object({ unitId: z.string(), unitName: z.string(), share: n, samples: n, gears: n.default(0) }),
    loadSource: z.string().exactOptional(),
    derived: z.array(z.string()),
    sensorChannels: z.record(z.string(), z.string()),
    gearSpans: z.array(z.object({ gear: n, startS: n, endS: n })),
    held: z.object({
      groups: z.array(
        z.object({
          ...group,
          seconds: n,
          slipMedianRpm: n,
          slipP95Rpm: n,
          ratioErrorPct: n,
          eachSecond: z.array(z.object({ slipRpm: n, load: maybe, fluidC: maybe, vehicleKmh: maybe })),
          torqueNm: Span.exactOptional(),
          fluidC: Span.exactOptional(),
        }),
      ),
      gears: z.array(
        z.object({
          gear: z.string(),
          seconds: n,
          slipping: z.array(
            z.object({
              gear: z.string(),
              startS: n,
              endS: n,
              peakRpm: n,
              torqueNm: maybe,
              fluidC: maybe,
              vehicleKmh: maybe,
            }),
          ),
          wrongSeconds: n,
          obtained: z.string().exactOptional(),
          cleanTorqueNm: maybe,
          cleanSeconds: n,
          coldestCleanC: maybe,
          slipSeconds: n,
          slipCarriedNm: maybe,
          onsetTorqueNm: maybe,
          rpmPerNm: maybe,
          lowestSlipFluidC: maybe,
          lowestSlipTorqueNm: maybe,
          cleanNmPerKpa: maybe,
          lowestSlipNmPerKpa: maybe,
        }),
      ),
      elements: z.array(
        z.object({
          element: z.string(),
          slipped: z.array(z.object({ gear: z.string(), part: n, fluidC: maybe })),
          held: z.array(z.object({ fluidC: maybe, part: n })),
        }),
      ),
    }),
    shifts: z.array(
      z.object({
        name: z.string(),
        from: z.string(),
        to: z.string(),
        commandS: n,
        endS: n,
        completed: z.boolean(),
        obtained: z.string().exactOptional(),
        delayS: maybe,
        inertiaS: maybe,
        flareRpm: maybe,
        undershootRpm: maybe,
        joltRpmPerS: maybe,
        brakesRpmPerS: maybe,
        linePressureKpa: maybe,
        preselectedS: maybe,
        torqueNm: maybe,
        load: maybe,
        fluidC: maybe,
        underPower: z.boolean(),
        measured: z.boolean(),
      }),
    ),
    converter: z
      .object({
        from: z.enum(["duty", "state", "pressure", "slip"]),
        episodes: z.array(
          z.object({
            startS: n,
            endS: n,
            gears: z.array(z.string()),
            applyS: maybe,
            state: z.enum(["locked", "controlled slip", "slipping"]),
            residualSlipRpm: n,
            openSlipRpm: maybe,
            loadedSlipRpm: maybe,
            load: maybe,
            torqueNm: maybe,
            fluidC: maybe,
            vehicleKmh: maybe,
          }),
        ),
        regulated: z.object({ slipRpm: n, openRpm: maybe, seconds: n }).exactOptional(),
        locked: z.object({ slipRpm: n, openRpm: maybe, seconds: n }).exactOptional(),
        letGo: z.object({ share: n, seconds: n }).exactOptional(),
        hunting: z.array(
          z.object({
            startS: n,
            endS: n,
            gear: z.string(),
            cycles: n,
            cyclesPerMin: n,
            fluidC: maybe,
            vehicleKmh: maybe,
          }),
        ),
        secondsOpen: n,
        secondsApplying: n,
        secondsApplied: n,
        byGear: z.record(z.string(), n),
      })
      .exactOptional(),
    oscillation: z.object({
      rateHz: n,
      highestHz: maybe,
      clutchWorking: z.array(OscillationGroup),
      windows: z.array(
        z.object({
          startS: n,
          endS: n,
          signal: z.enum(["slip", "engine", "output"]),
          peak: Peak,
          working: z.boolean().exactOptional(),
          cause: z.enum(["shudder", "engine", "output shaft", "wheels", "unknown"]),
          order: z
            .object({ part: z.enum(["engine", "output shaft", "wheels"]), order: n, folded: z.boolean() })
            .exactOptional(),
          group: z.object(group),
          torqueNm: maybe,
          fluidC: maybe,
          vehicleKmh: maybe,
        }),
      ),
      openPeakToPeakRpm: maybe,
      slipWindows: z.array(VibrationSample),
      judged: z.array(
        VibrationSample.extend({
          cause: z.enum(["shudder", "engine", "output shaft", "wheels", "unknown"]).exactOptional(),
        }),
      ),
      engineAloneWindows: n,
      shudderLimit: z.object({ value: n, source: z.enum(["unit file", "this drive", "typical"]) }).exactOptional(),
    }),
    dropouts: z.array(Dropout),
    limp: z
      .object({
        startS: n,
        endS: n,
        gear: z.string(),
        byPressure: z.boolean(),
        certain: z.boolean(),
        byRunaway: z.boolean(),
        signs: z.array(z.string()),
        preceded: Dropout.exactOptional(),
        vehicleKmh: maybe,
        fluidC: maybe,
      })
      .exactOptional(),
    engagements: z.array(
      z.object({
        range: z.enum(["D", "R"]),
        commandS: n,
        endS: n,
        delayS: maybe,
        joltRpmPerS: maybe,
        fluidC: maybe,
      }),
    ),
    stallTests: z.array(
      z.object({ startS: n, endS: n, engineRpm: n, expectedRpm: maybe, fluidC: maybe, tooLong: z.boolean() }),
    ),
    coastStops: z.array(
      z.object({
        startS: n,
        endS: n,
        fromKmh: n,
        downshifts: n,
        worstJoltRpmPerS: maybe,
        worstAtS: maybe,
      }),
    ),
    immobile: z.array(
      z.object({
        gear: z.string(),
        startS: n,
        endS: n,
        input: z.enum(["held", "free", "output"]).exactOptional(),
        torqueNm: maybe,
      }),
    ),
    loadReversals: z.array(z.object({ gear: z.string(), startS: n, vibrationRpm: n, torqueStepNm: maybe })),
    powerLosses: z.array(z.object({ startS: n, endS: n, vehicleKmh: n })).exactOptional(),
    gearHunting: z.array(z.object({ between: z.string(), startS: n, endS: n })),
    torqueCurve: z.array(z.tuple([n, n])).exactOptional(),
    road: z.object({ km: n, fullPedalS: n.exactOptional() }),
    pull: z.object({ share: n, seconds: n, startShare: maybe, couplingShare: maybe }).exactOptional(),
    idle: z.object({ usualRpm: n, dipRpm: n, neutralDipRpm: maybe, stops: n, seconds: n }).exactOptional(),
    neutral: z.object({ speedRatio: n, seconds: n }).exactOptional(),
    coolDown: z.object({ decayS: n, windows: n }).exactOptional(),
    reach: z.array(z.object({ gear: z.string(), seconds: n, wantedSeconds: n })),
    launches: z.array(
      z.object({
        gear: z.string(),
        startS: n,
        endS: n,
        closed: z.boolean(),
        slipS: n,
        highestSlipRpm: n,
        energyKj: maybe,
        judder: Peak.exactOptional(),
        vibrationDies: z.boolean(),
        torqueNm: maybe,
        clutchC: maybe,
        pedalPct: maybe,
      }),
    ),
    heat: z
      .object({
        sensor: z.enum(["fluid", "clutch"]),
        fromC: n,
        highestC: n,
        highestAtS: n,
        secondsAbove: z.array(n),
        spells: z.array(z.object({ fluidC: n, hours: n })),
        fastestRiseKPerMin: maybe,
        slipEnergyKj: maybe,
        meanSlipPowerKw: maybe,
        highestSlipPowerKw: maybe,
        cruiseKPerMin: maybe,
        cruiseSeconds: n,
        cooler: z.enum(["cools", "holds", "loses", "not driven"]),
      })
      .exactOptional(),
    adaptations: z.array(
      z.object({
        id: z.string(),
        name: z.string(),
        component: z.string(),
        unit: z.string(),
        first: n,
        last: n,
        limits: Span,
        newValue: n,
        used: n,
      }),
    ),
    pressures: z.array(
      z.object({ id: z.string(), seconds: n, coldShare: maybe, warmShare: maybe, lowShare: maybe, highShare: maybe }),
    ),
    ripples: z.array(z.object({ sensor: z.string(), channel: z.string(), roughnessRpm: n, elsewhereRpm: n })),
    quality: z.array(
      z.object({
        channel: z.string(),
        column: z.string(),
        rateHz: n,
        nyquistHz: n,
        readings: n,
        invalid: n,
        flags: z.array(z.string()),
      }),
    ),
    coverage: z.object({
      gears: z.array(z.object({ gear: z.string(), seconds: z.tuple([n, n, n, n]), lockupSeconds: maybe })),
      shifts: z.array(z.object({ name: z.string(), count: n })),
      reverseSeconds: n,
      kickDowns: n,
      coldSeconds: n,
      hotSeconds: n,
      share: n,
      next: z.array(z.string()),
    }),
    findings: z.array(Finding),
    notes: z.array(z.string()),
  })
  .meta({ id: "AnalysisFile" });

const Place = z.object({ line: z.number(), reason: z.string() });

/** What was made of the file itself. */
export const ImportReportSchema = z
  .object({
    rows: n,
    rowsUsed: n,
    lines: z.object({ read: n, head: n, blank: n, repeatedHeader: n, rejected: n, unused: n, rows: n }).exactOptional(),
    columns: n,
    durationS: n,
    rateHz: n,
    gaps: z.array(z.object({ startS: n, endS: n, line: n })),
    repairs: z.array(z.object({ what: z.string(), count: n, lines: z.array(n) })),
    rejects: z.array(Place),
    rejectCount: n,
    emptyCells: n,
    invalidCells: n,
  })
  .meta({ id: "ImportReport" });
