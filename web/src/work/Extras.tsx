import type { PlanOfJob } from "@gearsense/contract";
import { useState } from "react";
import { Link } from "react-router";
import { useJob } from "../job/job-context.tsx";
import { useEntryForm } from "../job/useEntryForm.ts";
import { useMoney } from "../shared/useMoney.ts";
import { hours } from "./hours.ts";

/** What shares the labour while it is open: cost now against cost later times its odds. What is taken joins the plan. */
export function Extras({ data, disabled }: { data: PlanOfJob; disabled: boolean }) {
  const { job, state } = useJob();
  const money = useMoney();
  const own = state.plan?.body ?? { ways: [] };
  const form = useEntryForm("plan", "plan", state.plan, own);
  const taken = new Set(own.extras ?? []);
  const [touched, setTouched] = useState<string | undefined>();
  // a tap shows at once, before it is stored
  const shown = (id: string) => (form.pending && touched === id ? !taken.has(id) : taken.has(id));
  const choose = (id: string, take: boolean) => {
    setTouched(id);
    const extras = take ? [...taken, id] : [...taken].filter((x) => x !== id);
    void form.submit({ ...own, extras });
  };
  if (data.extras.length === 0) return null;
  const worth = data.extras.filter((e) => e.worth > 0).length;
  return (
    <details className="border border-rule bg-panel p-3">
      <summary className="label flex min-h-11 cursor-pointer items-center text-lg">
        While it is open: {data.extras.length} parts share the labour, {worth} {worth === 1 ? "pays" : "pay"} for{" "}
        {worth === 1 ? "itself" : "themselves"} now
      </summary>
      <div className="overflow-x-auto">
        <table className="w-full">
          <thead>
            <tr className="label text-left">
              <th className="p-1">Take</th>
              <th className="p-1">What</th>
              <th className="p-1 text-right">Now</th>
              <th className="p-1 text-right">Later × odds</th>
              <th className="p-1 text-right">Worth</th>
            </tr>
          </thead>
          <tbody>
            {data.extras.map((e) => (
              <tr key={e.id} className="border-t border-rule align-top">
                <td className="p-1">
                  <label className="flex min-h-11 min-w-11 items-center justify-center">
                    <input
                      type="checkbox"
                      className="size-6"
                      aria-label={`Take: ${e.title}`}
                      disabled={disabled || form.pending}
                      checked={shown(e.id)}
                      onChange={(x) => choose(e.id, x.target.checked)}
                    />
                  </label>
                </td>
                <td className="p-1">
                  {e.title}
                  <span className="block text-sm text-quiet">
                    {e.why} {hours(e.minutes)}, {e.parts.map((p) => p.name).join(", ") || "no parts"}.
                  </span>
                </td>
                <td className="figures p-1 text-right whitespace-nowrap">{money(e.nowCost)}</td>
                <td className="figures p-1 text-right whitespace-nowrap">
                  {money(e.laterCost)} × {Math.round(e.odds * 100)} %
                </td>
                <td className={`figures p-1 text-right whitespace-nowrap ${e.worth > 0 ? "text-clear" : "text-quiet"}`}>
                  {e.worth > 0 ? "+" : "−"}
                  {money(Math.abs(e.worth))}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {taken.size > 0 && (
        <p className="mt-1 text-quiet">
          Their parts and hands go into the price at{" "}
          <Link className="underline" to={`/jobs/${job.id}/decide`}>
            the estimate
          </Link>
          .
        </p>
      )}
      {form.failure && (
        <p role="alert" className="font-semibold text-stop">
          {form.failure}
        </p>
      )}
    </details>
  );
}
