import type { KnownVehicleView } from "@gearsense/contract";
import { useDeferredValue } from "react";
import { useVehicles } from "../api/queries.ts";
import { matchVehicles } from "./known-vehicles.ts";

interface Typed {
  readonly name: string;
  readonly plate: string;
  readonly owner: string;
  readonly vin: string;
}

/** Vehicles and owners that were here before, while they are typed: taken by a touch. */
export function KnownVehicles({ value, onTake }: { value: Typed; onTake: (p: Typed & { unitId: string }) => void }) {
  const { name, plate, owner, vin } = value;
  const { data = [] } = useVehicles(useDeferredValue({ name, plate, owner, vin }));
  const hits = matchVehicles(data as KnownVehicleView[], value);
  if (hits.length === 0) return null;
  return (
    <section aria-label="Was here before" className="border-l-4 border-clear bg-clear-wash px-3 py-2">
      <p className="label">Was here before</p>
      <ul className="mt-1 flex flex-col gap-1">
        {hits.map((v) => (
          <li key={v.id}>
            <button
              type="button"
              className="flex min-h-11 w-full flex-wrap items-center gap-x-3 border border-field bg-panel px-3 text-left hover:border-ink"
              onClick={() => onTake({ name: v.name, plate: v.plate, owner: v.owner, vin: v.vin, unitId: v.unitId })}
            >
              <span className="label">
                {v.name} · {v.plate || "no plate"} · {v.owner}
              </span>
              <span className="text-quiet">
                {v.jobs.length} {v.jobs.length === 1 ? "job" : "jobs"}, last {v.jobs[0]?.number}: {v.jobs[0]?.complaint}
              </span>
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
