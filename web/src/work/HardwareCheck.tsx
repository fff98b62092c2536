import { ENGAGEMENT, fitOf, type Material, threadOf } from "@gearsense/core/fasteners";
import { numberIn } from "@gearsense/core/procedure";
import type { Unit } from "@gearsense/core/unit";
import { CircleCheck, TriangleAlert } from "lucide-react";
import { useState } from "react";
import { useJob } from "../job/job-context.tsx";
import { TextField } from "../shared/controls.tsx";

const MATERIALS: Readonly<Record<Material, string>> = {
  aluminium: "aluminium",
  magnesium: "magnesium",
  "cast-iron": "cast iron",
  steel: "steel",
};

/** Whether a new bolt fits before the lift goes up: thread, pitch, engagement, does it bottom out. */
export function HardwareCheck() {
  const { job } = useJob();
  const bolts = (job.unit as Unit).fasteners ?? [];
  const [id, setId] = useState(bolts[0]?.id ?? "");
  const [material, setMaterial] = useState<Material>("aluminium");
  const [typed, setTyped] = useState({ thread: "", length: "", grip: "", depth: "" });
  const bolt = bolts.find((b) => b.id === id);
  const hole = bolt && threadOf(bolt.thread);
  if (!bolt || !hole) return null;
  const put = (patch: Partial<typeof typed>) => setTyped({ ...typed, ...patch });
  const own = threadOf(typed.thread);
  const [lengthMm, gripMm, depthMm] = [numberIn(typed.length), numberIn(typed.grip), numberIn(typed.depth)];
  const threadDepthMm = typed.depth.trim() === "" ? undefined : depthMm;
  const ready = own && lengthMm > 0 && gripMm >= 0 && (threadDepthMm === undefined || threadDepthMm > 0);
  const fit = ready ? fitOf({ hole, bolt: own, lengthMm, gripMm, threadDepthMm, material }) : undefined;
  return (
    <details className="border border-rule p-3">
      <summary className="label flex min-h-11 cursor-pointer items-center text-lg">Does the new bolt fit?</summary>
      <div className="grid gap-3 sm:grid-cols-2">
        <Pick
          label="Bolt of the unit file"
          value={id}
          onPick={setId}
          of={bolts.map((b) => [b.id, `${b.name}, ${b.thread} × ${b.lengthMm}`])}
        />
        <Pick
          label="The hole is in"
          value={material}
          onPick={(m) => setMaterial(m as Material)}
          of={(Object.keys(ENGAGEMENT) as Material[]).map((m) => [m, MATERIALS[m]])}
        />
        <TextField
          label="Thread of the new bolt"
          hint={`Unit file: ${bolt.thread}. Check with a thread gauge.`}
          value={typed.thread}
          error={typed.thread !== "" && !own ? "A metric thread, such as M10 × 1.25" : undefined}
          onChange={(e) => put({ thread: e.target.value })}
        />
        <TextField
          label="Its length under the head, mm"
          hint={`Unit file: ${bolt.lengthMm} mm`}
          inputMode="decimal"
          value={typed.length}
          onChange={(e) => put({ length: e.target.value })}
        />
        <TextField
          label="What it clamps, mm"
          hint="Flange, washer and gasket together"
          inputMode="decimal"
          value={typed.grip}
          onChange={(e) => put({ grip: e.target.value })}
        />
        <TextField
          label="Full thread of the hole, mm"
          hint="Leave empty for a through hole"
          inputMode="decimal"
          value={typed.depth}
          onChange={(e) => put({ depth: e.target.value })}
        />
      </div>
      <div role="status" className="mt-3">
        {fit && fit.problems.length === 0 && (
          <p className="flex items-center gap-2 border-l-4 border-clear bg-clear-wash p-2">
            <CircleCheck aria-hidden="true" className="size-6 text-clear" />
            It fits: {fit.engagedMm.toFixed(1)} mm of thread, {fit.diameters.toFixed(1)} diameters ({fit.needed} asked
            for).
          </p>
        )}
        {fit?.problems.map((p) => (
          <p key={p} className="flex items-center gap-2 border-l-4 border-stop bg-stop-wash p-2 font-semibold">
            <TriangleAlert aria-hidden="true" className="size-6 text-stop" />
            {p}
          </p>
        ))}
      </div>
    </details>
  );
}

function Pick({
  label,
  value,
  onPick,
  of,
}: {
  label: string;
  value: string;
  onPick: (id: string) => void;
  of: readonly (readonly [id: string, words: string])[];
}) {
  return (
    <label className="flex flex-col">
      <span className="label text-sm">{label}</span>
      <select
        className="min-h-11 border border-field bg-panel px-2"
        value={value}
        onChange={(e) => onPick(e.target.value)}
      >
        {of.map(([id, words]) => (
          <option key={id} value={id}>
            {words}
          </option>
        ))}
      </select>
    </label>
  );
}
