import { existsSync, mkdirSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import type { Unit } from "@gearsense/core/unit";
import {
  captureDefinition,
  componentsFor,
  DIALECTS,
  type DialectName,
  exportLog,
  faultKindsFor,
  PROFILES,
  type ProfileName,
  type SimulatedFault,
  type SimulatedLog,
  simulateDrive,
  truthFile,
} from "@gearsense/simulator";
import { unitFor } from "./units.ts";
import { UsageError } from "./usage-error.ts";

export interface SimulateOptions {
  readonly unit: string;
  readonly faults: readonly string[];
  readonly drive: string;
  readonly minutes: number;
  readonly seed: number;
  /** which vehicle; that of the seed where left out */
  readonly vehicleSeed?: number | undefined;
  readonly dialect: string;
  readonly rateHz: number | undefined;
  readonly channels: readonly string[] | undefined;
  readonly out: string;
}

/** `KIND[@COMPONENT][:SEVERITY]`. @throws UsageError when it isn't one */
export function readFault(text: string): SimulatedFault {
  const parts = /^([a-z0-9-]+)(?:@([^\s]+?))?(?::([0-9.]+))?$/.exec(text);
  const severity = parts?.[3] === undefined ? undefined : Number(parts[3]);
  if (!parts?.[1] || (severity !== undefined && !(severity > 0 && severity <= 1)))
    throw new UsageError(
      `"${text}" isn’t a fault: write KIND, KIND:0.6 or KIND@PART:0.6, with a severity over 0 up to 1.`,
    );
  return { kind: parts[1], component: parts[2], severity };
}

export const choose = <T extends object>(what: string, name: string, from: T): keyof T => {
  if (!(name in from))
    throw new UsageError(`"${name}" isn’t a ${what}. Choose one of: ${Object.keys(from).join(", ")}.`);
  return name as keyof T;
};

/** What can be simulated with a unit, for a person. */
export function listSimulation(unitName: string): string {
  const unit = unitFor(unitName);
  const kinds = faultKindsFor(unit).map((k) => {
    const parts = componentsFor(unit, k);
    return `  ${k.id}${parts.length > 0 ? `@${parts.join("|")}` : ""}\n    ${k.title}: ${k.symptom}`;
  });
  return `Faults of ${unit.name}:\n${kinds.join("\n")}\nDrives: ${Object.keys(PROFILES).join(", ")}\nDialects: ${Object.keys(DIALECTS).join(", ")}`;
}

/** Codes with freeze frame, as a table. */
function codesTable(unit: Unit, { codes, truth }: SimulatedLog): string {
  const frames = [...new Set(codes.flatMap((c) => Object.keys(c.freezeFrame)))];
  const lines = codes.map((c) =>
    [c.code, `"${c.text}"`, c.timeS.toFixed(2), ...frames.map((f) => c.freezeFrame[f] ?? "")].join(","),
  );
  // of another day: without a time, without a frame
  const strays = truth.strayCodes.map((code) =>
    [code, `"${unit.codes.find((c) => c.code === code)?.text ?? ""}"`, "", ...frames.map(() => "")].join(","),
  );
  return `${[["code", "text", "time_s", ...frames].join(","), ...lines, ...strays].join("\n")}\n`;
}

/** Writes log, truth and codes of a made-up drive into a folder. @throws UsageError when a name is unknown or the folder holds a drive */
export function simulateToFolder(o: SimulateOptions): string {
  const unit = unitFor(o.unit);
  const profile: ProfileName = choose("drive", o.drive, PROFILES);
  const dialect: DialectName = choose("dialect", o.dialect, DIALECTS);
  const faults = o.faults.filter((f) => f !== "none").map(readFault);
  const { container } = DIALECTS[dialect];
  const name = { none: "log.csv", gzip: "log.csv.gz", zip: "log.zip" }[container];
  const [log, truth, codes] = [name, "truth.json", "codes.csv"].map((file) => join(o.out, file)) as [
    string,
    string,
    string,
  ];
  if (existsSync(log)) throw new UsageError(`${log} is there already. Name another folder.`);
  let made: SimulatedLog;
  try {
    made = simulateDrive({
      unit,
      seed: o.seed,
      vehicleSeed: o.vehicleSeed,
      durationS: o.minutes * 60,
      profile,
      faults,
      rateHz: o.rateHz,
      channels: o.channels,
    });
  } catch (error) {
    if (error instanceof RangeError) throw new UsageError(error.message);
    throw error;
  }
  mkdirSync(o.out, { recursive: true });
  const style = DIALECTS[dialect];
  writeFileSync(log, exportLog(made.columns, style));
  if (style.layout === "capture")
    writeFileSync(
      join(o.out, "bus.json"),
      `${JSON.stringify(captureDefinition(made.columns, `${unit.name}, simulated`), null, 1)}\n`,
    );
  writeFileSync(truth, `${JSON.stringify(truthFile(made), null, 1)}\n`);
  writeFileSync(codes, codesTable(unit, made));
  const set = made.codes.length === 0 ? "no codes set" : `codes ${made.codes.map((c) => c.code).join(", ")}`;
  return `Wrote ${log}, ${truth} and ${codes}: ${unit.name}, ${o.faults.join(" and ") || "no fault"}, ${o.minutes} min of ${profile} at ${made.rateHz} Hz, ${set}. All of it is made up.`;
}
