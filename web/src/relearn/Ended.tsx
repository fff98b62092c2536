import type { RelearnEnd } from "@gearsense/core/relearn";
import type { ReactNode } from "react";
import { Notice } from "../shared/controls.tsx";

const WORDS = { done: "Done", aborted: "Stopped", failed: "Failed" } as const;

/** How a relearn ended, and what is to be done now. */
export function Ended({
  name,
  end,
  children,
}: {
  name: string;
  end: Pick<RelearnEnd, "outcome" | "say" | "next">;
  children?: ReactNode;
}) {
  return (
    <Notice
      tone={end.outcome === "done" ? "clear" : end.outcome === "failed" ? "stop" : "caution"}
      title={`${name}: ${WORDS[end.outcome].toLowerCase()}`}
      live
    >
      <p>{end.say}.</p>
      <p>{end.next}</p>
      {children}
    </Notice>
  );
}
