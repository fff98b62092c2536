import { checkVin } from "@gearsense/core/intake";
import { unitLabel } from "@gearsense/core/quantity";
import type { ReactNode } from "react";
import { useUnits } from "../api/queries.ts";
import { useSettings } from "../settings/settings.tsx";
import { SelectField, TextField } from "../shared/controls.tsx";

export interface VehicleText {
  readonly name: string;
  readonly plate: string;
  readonly owner: string;
  readonly vin: string;
  readonly unitId: string;
  /** as typed, in the reader's units */
  readonly odometer: string;
}

const KINDS = {
  planetary: "planetary with converter",
  "dct-wet": "wet dual clutch",
  "dct-dry": "dry dual clutch",
} as const;

/** Vehicle, owner, unit and mileage. @param errors - by field; those of the vehicle stand under `vehicle.` too */
export function VehicleFields({
  value,
  onChange,
  errors,
  unitHint,
}: {
  value: VehicleText;
  onChange: (patch: Partial<VehicleText>) => void;
  errors: Readonly<Record<string, string>>;
  unitHint?: ReactNode;
}) {
  const { system } = useSettings();
  const { data: units = [] } = useUnits();
  const vin = (value.vin ?? "").trim() === "" ? undefined : checkVin(value.vin);
  const error = (field: string) => errors[`vehicle.${field}`] ?? errors[field];
  const unit = units.find((u) => u.id === value.unitId);
  return (
    <>
      <div className="grid gap-4 md:grid-cols-[2fr_1fr_2fr]">
        <TextField
          label="Vehicle"
          placeholder="School minibus"
          value={value.name}
          onChange={(e) => onChange({ name: e.target.value })}
          error={error("name")}
        />
        <TextField
          label="Plate"
          value={value.plate}
          onChange={(e) => onChange({ plate: e.target.value })}
          error={error("plate")}
        />
        <TextField
          label="Owner"
          value={value.owner}
          onChange={(e) => onChange({ owner: e.target.value })}
          error={error("owner")}
        />
      </div>
      <div className="grid gap-4 md:grid-cols-[2fr_1fr_2fr]">
        <SelectField
          label="Transmission"
          value={value.unitId}
          onChange={(e) => onChange({ unitId: e.target.value })}
          error={errors.unitId}
          hint={unitHint ?? unit?.description ?? "Belt and chain variators are out of scope."}
        >
          <option value="">Choose from the library</option>
          {units.map((u) => (
            <option key={u.id} value={u.id}>
              {u.name} · {u.gears.length - 1} gears, {KINDS[u.kind]}
            </option>
          ))}
        </SelectField>
        <TextField
          label={`Mileage, ${unitLabel("distance", system)}`}
          inputMode="numeric"
          value={value.odometer}
          onChange={(e) => onChange({ odometer: e.target.value })}
          error={errors.odometerKm}
        />
        <TextField
          label="VIN"
          placeholder="17 characters, if at hand"
          autoCapitalize="characters"
          maxLength={24}
          value={value.vin}
          onChange={(e) => onChange({ vin: e.target.value })}
          error={error("vin") ?? (vin && !vin.ok ? vin.message : undefined)}
          hint={vin?.ok ? "Form and check digit are right. Nothing is looked up." : undefined}
        />
      </div>
    </>
  );
}
