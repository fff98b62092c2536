import { judgeConditions } from "@gearsense/core/relearn";
import type { LiveCondition } from "@gearsense/core/unit";
import clsx from "clsx";
import { Check, Hourglass, Minus, X } from "lucide-react";

/** A number as it is read at arm's length. */
const figure = (v: number) => String(Math.round(v * 10) / 10);

/** What has to hold, each beside what is read now. */
export function Conditions({
  title,
  conditions,
  values,
  awaited = false,
}: {
  title: string;
  conditions: readonly LiveCondition[];
  values: ReadonlyMap<string, number>;
  /** they are waited for: that one does not hold yet is no trouble */
  awaited?: boolean;
}) {
  if (conditions.length === 0) return null;
  return (
    <section aria-label={title}>
      <h3 className="text-lg">{title}</h3>
      <ul className="mt-1 grid gap-x-6 sm:grid-cols-2">
        {judgeConditions(conditions, values).map(({ condition, holds, value, word }) => (
          <li
            key={`${condition.channel} ${condition.say}`}
            className="flex min-h-11 items-center gap-3 border-b border-rule"
          >
            <span
              className={clsx(
                "flex size-7 shrink-0 items-center justify-center rounded-full",
                holds === true && "bg-clear-wash text-clear",
                holds === false && !awaited && "bg-stop-wash text-stop",
                (holds === undefined || (awaited && holds === false)) && "bg-ground text-quiet",
              )}
            >
              {holds === true ? (
                <Check aria-label="Holds:" className="size-5" />
              ) : awaited ? (
                <Hourglass aria-label="Not yet:" className="size-5" />
              ) : holds === false ? (
                <X aria-label="Does not hold:" className="size-5" />
              ) : (
                <Minus aria-label="Not read:" className="size-5" />
              )}
            </span>
            <span className="min-w-0 flex-1">{condition.say}</span>
            <span className="figures text-xl">
              {condition.between && condition.between[0] === condition.between[1] && holds === true
                ? ""
                : (word ?? (value === undefined ? "–" : figure(value)))}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
