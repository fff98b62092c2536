import { existsSync, mkdirSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { SOLENOID_FAULTS, scopeCsv, solenoidRecording, WHEEL_FAULTS, wheelRecording } from "@gearsense/simulator";
import { unitFor } from "./units.ts";
import { UsageError } from "./usage-error.ts";

export interface ScopeOptions {
  readonly unit: string;
  /** id of a solenoid, or of a speed sensor */
  readonly part: string;
  readonly fault: string;
  readonly seed: number;
  readonly out: string;
}

function faultIn<F extends string>(faults: readonly F[], fault: string, part: string): F {
  const found = faults.find((f) => f === fault);
  if (!found)
    throw new UsageError(
      `"${fault}" isn’t a fault that a scope at ${part} shows. Choose one of: ${faults.join(", ")}.`,
    );
  return found;
}

/**
 * Writes what a scope would record at a solenoid or a speed sensor, and what was wrong with it.
 * @throws UsageError when a name is unknown or the folder holds a recording
 */
export function scopeToFolder({ unit: unitName, part, fault, seed, out }: ScopeOptions): string {
  const unit = unitFor(unitName);
  const [file, truth] = [join(out, "scope.csv"), join(out, "truth.json")];
  if (existsSync(file)) throw new UsageError(`${file} is there already. Name another folder.`);
  const solenoid = unit.solenoids.find((s) => s.id === part);
  const sensor = unit.sensors.find((s) => s.id === part && s.teeth !== undefined);
  const write = (csv: string, told: object) => {
    mkdirSync(out, { recursive: true });
    writeFileSync(file, csv);
    writeFileSync(truth, `${JSON.stringify({ unitId: unit.id, part, fault, seed, ...told }, null, 1)}\n`);
  };
  if (solenoid) {
    const [low, high] = solenoid.resistanceOhmAt20C;
    const made = solenoidRecording((low + high) / 2, faultIn(SOLENOID_FAULTS, fault, part), seed);
    write(scopeCsv(made), { landsMs: made.landsMs ?? null });
  } else if (sensor?.teeth) {
    write(scopeCsv(wheelRecording(sensor.teeth, "coil", faultIn(WHEEL_FAULTS, fault, part), seed)), {
      teeth: sensor.teeth,
    });
  } else {
    const parts = [...unit.solenoids, ...unit.sensors.filter((s) => s.teeth !== undefined)].map((x) => x.id);
    throw new UsageError(
      `${unit.name} has no solenoid and no tooth sensor "${part}". Choose one of: ${parts.join(", ")}.`,
    );
  }
  return `Wrote ${file} and ${truth}: a scope at ${solenoid?.name ?? sensor?.name}, ${fault === "none" ? "no fault" : fault}. All of it is made up.`;
}
