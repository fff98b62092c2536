import { channelsToRecord } from "@gearsense/core/log";
import type { Unit } from "@gearsense/core/unit";
import { useJob } from "../job/job-context.tsx";

/** Channels to choose on the scan tool before the drive, by unit and complaint. */
export function ToRecord() {
  const { job, state } = useJob();
  const list = channelsToRecord(job.unit as Unit, state.intake?.body.symptoms.map((s) => s.kind) ?? []);
  const rows = (need: "must" | "good") => list.filter((c) => c.need === need);
  return (
    <details className="border border-rule bg-panel px-3 py-2">
      <summary className="label min-h-8 cursor-pointer">Before the drive: record these channels</summary>
      <p className="text-quiet">
        Ten readings a second or more. The fewer channels, the faster a scan tool reads: those on the left first.
      </p>
      <div className="mt-2 grid gap-6 lg:grid-cols-2">
        {(["must", "good"] as const).map((need) => (
          <div key={need}>
            <h3 className="text-[17px]">{need === "must" ? "Needed" : "Good to have"}</h3>
            <ul>
              {rows(need).map((c) => (
                <li key={c.channel} className="border-b border-rule py-1">
                  <span className="label">{c.label}</span> <span className="text-quiet">{c.why}</span>
                </li>
              ))}
            </ul>
          </div>
        ))}
      </div>
    </details>
  );
}
