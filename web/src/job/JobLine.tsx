import clsx from "clsx";
import { Check, Diamond } from "lucide-react";
import { NavLink } from "react-router";
import { AssignedTo } from "./AssignedTo.tsx";
import type { StopInfo } from "./stops.ts";

/** The job as a line of stops, each with its state and the one figure that matters there. */
export function JobLine({ jobId, stops }: { jobId: string; stops: readonly StopInfo[] }) {
  return (
    <nav
      aria-label="Stops of the job"
      className="no-print border-r border-rule md:w-[150px] md:overflow-y-auto lg:w-[176px]"
    >
      <ol className="flex overflow-x-auto md:flex-col md:py-1">
        {stops.map((s, i) => (
          <li key={s.id} className="relative shrink-0">
            {i < stops.length - 1 && (
              <span aria-hidden="true" className="absolute top-8 left-[21px] hidden h-7 w-px bg-field md:block" />
            )}
            <NavLink
              to={`/jobs/${jobId}/${s.id}`}
              className={({ isActive }) =>
                clsx(
                  "flex min-h-[46px] items-center gap-2.5 px-3",
                  isActive ? "bg-slate text-on-slate" : "hover:bg-panel",
                )
              }
              aria-label={`${s.label}, ${s.state}${s.figure ? `, ${s.figure}` : ""}`}
            >
              {({ isActive }) => (
                <>
                  <Mark state={s.state} active={isActive} />
                  <span className="min-w-0">
                    <span className="label block text-[17px] leading-5">{s.label}</span>
                    {s.figure && (
                      <span className={clsx("figures block text-[14px] leading-4", isActive ? "" : "text-quiet")}>
                        {s.figure}
                      </span>
                    )}
                  </span>
                </>
              )}
            </NavLink>
          </li>
        ))}
      </ol>
      <AssignedTo />
    </nav>
  );
}

function Mark({ state, active }: { state: StopInfo["state"]; active: boolean }) {
  const frame = "relative z-10 grid size-[19px] shrink-0 place-items-center border-2";
  if (state === "done") {
    return (
      <span className={clsx(frame, "border-clear bg-clear text-ground")}>
        <Check aria-hidden="true" className="size-4" strokeWidth={3} />
      </span>
    );
  }
  if (state === "in hand") {
    return (
      <span className={clsx(frame, "border-transparent text-action")}>
        <Diamond aria-hidden="true" className="size-5 fill-current" />
      </span>
    );
  }
  return <span className={clsx(frame, "bg-ground", active ? "border-on-slate" : "border-field")} />;
}
