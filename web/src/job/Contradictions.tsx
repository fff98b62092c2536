import { findContradictions } from "@gearsense/core/observe";
import { useMemo } from "react";
import { Notice } from "../shared/controls.tsx";
import { useJob } from "./job-context.tsx";

/** Entries that cannot both be right, with what would settle it. */
export function Contradictions() {
  const { job, state } = useJob();
  const found = useMemo(() => findContradictions(job.unit, state), [job.unit, state]);
  if (found.length === 0) return null;
  return (
    <Notice
      tone="caution"
      title={found.length === 1 ? "This does not go together" : `${found.length} things do not go together`}
    >
      <ul aria-label="Contradictions" className="flex flex-col gap-1">
        {found.map((c) => (
          <li key={c.id}>
            {c.text} <span className="text-quiet">{c.settle}</span>
          </li>
        ))}
      </ul>
    </Notice>
  );
}
