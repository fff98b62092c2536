import { driveMissing, type RelearnState } from "@gearsense/core/relearn";
import type { DriveWindow } from "@gearsense/core/unit";
import { Plus } from "lucide-react";
import { Button } from "../shared/controls.tsx";

/** What a drive has to bring, filling shift by shift. @param onMet - a person counts where nothing is read */
export function Windows({
  windows,
  drive,
  onMet,
}: {
  windows: readonly DriveWindow[];
  drive: RelearnState["drive"];
  onMet?: (index: number) => void;
}) {
  const missing = driveMissing(drive, windows);
  return (
    <section aria-label="What to drive">
      <p className="text-xl" aria-live="polite">
        {missing.length === 0 ? "All of it is driven." : `Drive next: ${missing[0]}.`}
      </p>
      <ul className="mt-2 grid gap-x-6 sm:grid-cols-2">
        {windows.map((w, i) => {
          const n = Math.min(w.times, drive.filled[i] ?? 0);
          return (
            <li key={`${w.shift} ${w.foot}`} className="flex min-h-11 items-center gap-3 border-b border-rule py-1">
              <span className="label w-16">{w.shift === "stop" ? "Stop" : w.shift}</span>
              <span className="min-w-0 flex-1 text-quiet">
                {w.foot}
                {w.shift !== "stop" && `, pedal ${w.pedalPct[0]} to ${w.pedalPct[1]} %`}
              </span>
              <span aria-hidden="true" className="flex gap-1">
                {[...Array(w.times).keys()].map((k) => (
                  <span
                    key={k}
                    className={k < n ? "size-4 border border-clear bg-clear" : "size-4 border border-field"}
                  />
                ))}
              </span>
              <span className="figures w-14 text-right">
                {n} of {w.times}
              </span>
              {onMet && n < w.times && (
                <Button aria-label={`Done once: ${w.shift} ${w.foot}`} onClick={() => onMet(i)}>
                  <Plus aria-hidden="true" className="size-5" />
                </Button>
              )}
            </li>
          );
        })}
      </ul>
    </section>
  );
}
