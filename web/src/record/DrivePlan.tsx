import type { PlannedStretch, Stretch } from "@gearsense/core/drive";
import clsx from "clsx";

const STRETCH: Readonly<Record<Stretch, string>> = {
  standing: "Standing, before you pull away",
  yard: "In the yard",
  cold: "First kilometres, cold",
  town: "In town, pulling away and stopping",
  level: "Level road, steady speed",
  uphill: "Uphill",
  downhill: "Downhill, and rolling out to a stop",
  hot: "At the end, hot",
};

const WHY = { complaint: "the complaint: ", found: "found before: ", usual: "" } as const;

/** The way to drive, stretch by stretch; what was driven is struck off. */
export function DrivePlan({ plan }: { plan: readonly PlannedStretch[] }) {
  return (
    <ol className="grid gap-x-8 gap-y-2 lg:grid-cols-2">
      {plan.map(({ stretch, items }) => {
        const done = items.every((i) => i.done);
        return (
          <li key={stretch} className={clsx("border-l-4 pl-2", done ? "border-clear text-quiet" : "border-field")}>
            <h3 className="text-[17px]">
              {STRETCH[stretch]}
              {done && " – driven"}
            </h3>
            {!done && (
              <ul>
                {items.map(
                  ({ what, left, done, why }) =>
                    !done && (
                      <li key={what} className={clsx(why !== "usual" && "font-semibold")}>
                        {WHY[why]}
                        {what}
                        {left.length > 0 && (
                          <>
                            : <span className="figures">{left.join(", ")}</span>
                          </>
                        )}
                      </li>
                    ),
                )}
              </ul>
            )}
          </li>
        );
      })}
    </ol>
  );
}
