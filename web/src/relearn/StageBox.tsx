import type { RelearnMachine } from "@gearsense/core/unit";
import type { ReactNode } from "react";

/** The stage that is on, large enough to be read from the seat. */
export function StageBox({
  machine,
  index,
  children,
}: {
  machine: RelearnMachine;
  index: number;
  children?: ReactNode;
}) {
  return (
    <div className="border-2 border-ink p-4" aria-live="assertive">
      <p className="label text-quiet">
        Step {index + 1} of {machine.stages.length}
      </p>
      <p className="text-3xl leading-tight">{machine.stages[index]?.say}</p>
      {children}
    </div>
  );
}
