import type { Unit } from "@gearsense/core/unit";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { useSession, useUnits } from "../api/queries.ts";
import { useShortcuts } from "../keys/shortcuts.tsx";
import { SelectField } from "../shared/controls.tsx";
import { TopBar } from "../shared/TopBar.tsx";
import { useDraft } from "../shared/useDraft.ts";
import { type BenchValue, emptyBench } from "./bench-model.ts";
import { FluidBench } from "./FluidBench.tsx";

/** The fluid bench without a job: for any unit of the library. */
export default function FluidPage() {
  const { data: units = [] } = useUnits();
  const { data: session } = useSession();
  const navigate = useNavigate();
  const [unitId, setUnitId] = useState("");
  useShortcuts([
    { key: "Escape", label: "Back to the bay board", group: "Fluid bench", run: () => void navigate("/") },
  ]);
  const unit = units.find((u) => u.id === unitId) ?? units[0];
  return (
    <div className="flex min-h-full flex-col">
      <TopBar>
        <Link to="/" className="label text-2xl">
          Gearsense
        </Link>
        <span className="text-quiet">Fluid bench</span>
      </TopBar>
      <main className="mx-auto flex w-full max-w-5xl flex-1 flex-col gap-4 p-5">
        <h1 className="text-[28px] leading-8">Fluid bench</h1>
        <SelectField
          label="Transmission"
          className="max-w-md"
          value={unit?.id ?? ""}
          onChange={(e) => setUnitId(e.target.value)}
        >
          {units.map((u) => (
            <option key={u.id} value={u.id}>
              {u.name} · {u.fluid.spec}
            </option>
          ))}
        </SelectField>
        {unit && <Bench key={unit.id} unit={unit as Unit} hourlyRate={session?.shop.hourlyRate ?? 0} />}
      </main>
    </div>
  );
}

function Bench({ unit, hourlyRate }: { unit: Unit; hourlyRate: number }) {
  const draft = useDraft<BenchValue>(`fluid-bench.${unit.id}`, emptyBench(unit));
  return <FluidBench unit={unit} value={draft.value} onChange={draft.set} hourlyRate={hourlyRate} title={unit.name} />;
}
