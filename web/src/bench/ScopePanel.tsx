import { channelOf, currentRamp, readScope, ScopeError, type ScopeFile, toothSignal } from "@gearsense/core/bench";
import type { Unit } from "@gearsense/core/unit";
import { Upload } from "lucide-react";
import { useState } from "react";
import { useJob } from "../job/job-context.tsx";
import { Notice, SelectField } from "../shared/controls.tsx";
import { FileButton } from "../shared/FileButton.tsx";

const MOST_BYTES = 60 * 1024 * 1024;

/** Values that a recording gives, by the ids of measures. */
export type ScopeValues = Readonly<Record<string, number>>;

/** Current of a solenoid or pulses of a sensor from a scope's CSV, into the fields below. */
export function ScopePanel({ onValues, mayEdit }: { onValues: (v: ScopeValues) => void; mayEdit: boolean }) {
  const { job } = useJob();
  const unit = job.unit as Unit;
  const sensors = unit.sensors.filter((s) => s.teeth);
  const [about, setAbout] = useState(unit.solenoids[0]?.id ?? sensors[0]?.id ?? "");
  const [file, setFile] = useState<ScopeFile | undefined>();
  const [said, setSaid] = useState<{ tone: "stop" | "clear" | "caution"; text: string } | undefined>();
  const read = (scope: ScopeFile, of: string, channel?: string) => {
    try {
      const values = channelOf(scope, channel);
      const sensor = sensors.find((s) => s.id === of);
      if (sensor) {
        const t = toothSignal(scope.timeS, values, sensor.teeth ?? 1);
        onValues({ [`missing-${of}`]: t.missing, [`runout-${of}`]: Math.round(t.runOutPct * 10) / 10 });
        const kind =
          t.growth === undefined
            ? ""
            : t.growth > 1.4
              ? " Its swing grows with speed, as a coil’s does."
              : " Its swing stays with speed, as of a Hall sensor.";
        setSaid({
          tone: t.missing > 0 ? "caution" : "clear",
          text: `${sensor.name}: ${t.pulses} pulses, ${t.missing === 0 ? "none missing" : `${t.missing} missing a turn`}, run-out ${t.runOutPct.toFixed(0)} %, swing ${t.swingV[0].toFixed(1)} to ${t.swingV[1].toFixed(1)} V.${kind}`,
        });
        return;
      }
      const solenoid = unit.solenoids.find((s) => s.id === of);
      const r = currentRamp(scope.timeS, values);
      if (r.pullInMs !== undefined) onValues({ [`pull-${of}`]: Math.round(r.pullInMs * 10) / 10 });
      setSaid(
        r.pullInMs === undefined
          ? {
              tone: "caution",
              text: `${solenoid?.name ?? of}: ${r.finalA.toFixed(2)} A and no dip: current flows, the plunger does not move.`,
            }
          : {
              tone: "clear",
              text: `${solenoid?.name ?? of}: pulls in after ${r.pullInMs.toFixed(1)} ms, dip ${r.dipA.toFixed(2)} A, ${r.finalA.toFixed(2)} A at the end.`,
            },
      );
    } catch (e) {
      if (!(e instanceof ScopeError)) throw e;
      setSaid({ tone: "stop", text: e.message });
    }
  };
  const take = async (f: File) => {
    if (f.size > MOST_BYTES) {
      setSaid({ tone: "stop", text: `${f.name} is larger than 60 MB: save a shorter span of the recording.` });
      return;
    }
    try {
      const scope = readScope(await f.text());
      setFile(scope);
      setSaid(undefined);
      if (scope.channels.length === 1) read(scope, about);
      else
        setSaid({
          tone: "caution",
          text: `${f.name} has ${scope.channels.length} channels: choose which one to read.`,
        });
    } catch (e) {
      if (!(e instanceof ScopeError)) throw e;
      setFile(undefined);
      setSaid({ tone: "stop", text: `${f.name}: ${e.message}` });
    }
  };
  return (
    <section aria-label="From a scope" className="flex flex-col gap-2 border border-rule bg-panel p-3">
      <h2 className="text-lg">From a scope</h2>
      <div className="flex flex-wrap items-end gap-3">
        <SelectField label="Recorded at" value={about} className="w-72" onChange={(e) => setAbout(e.target.value)}>
          {[...unit.solenoids, ...sensors].map((x) => (
            <option key={x.id} value={x.id}>
              {x.name}
            </option>
          ))}
        </SelectField>
        <FileButton label="Scope recording" accept=".csv,.txt" disabled={!mayEdit} onFile={(f) => void take(f)}>
          <Upload aria-hidden="true" className="size-5" />
          Recording, CSV
        </FileButton>
        {file && file.channels.length > 1 && (
          <SelectField
            label="Channel"
            className="w-56"
            defaultValue=""
            onChange={(e) => e.target.value !== "" && read(file, about, e.target.value)}
          >
            <option value="">choose …</option>
            {file.channels.map((c) => (
              <option key={c.name} value={c.name}>
                {c.name}
              </option>
            ))}
          </SelectField>
        )}
      </div>
      {said && (
        <Notice tone={said.tone} live>
          {said.text}
        </Notice>
      )}
      <p className="text-sm text-quiet">
        Solenoid: current clamp round one wire, from before it is switched on until it is steady. Sensor: signal over at
        least two turns of its wheel.
      </p>
    </section>
  );
}
