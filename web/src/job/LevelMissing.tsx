import type { ReactNode } from "react";
import { Link } from "react-router";
import { Notice } from "../shared/controls.tsx";
import { useJob } from "./job-context.tsx";

/** The gate before costly steps: said until the level is recorded, with the way to it. */
export function LevelMissing({ children }: { children: ReactNode }) {
  const { job } = useJob();
  return (
    <Notice
      tone="caution"
      title="The fluid level is not recorded"
      actions={
        <Link className="label inline-flex min-h-11 items-center underline" to={`/jobs/${job.id}/first-look`}>
          Record the level
        </Link>
      }
    >
      {children}
    </Notice>
  );
}
