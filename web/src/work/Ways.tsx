import type { PlanOfJob } from "@gearsense/contract";
import { numberIn, RUST, type Rust } from "@gearsense/core/procedure";
import { CarFront } from "lucide-react";
import { useWays } from "../api/queries.ts";
import { useJob } from "../job/job-context.tsx";
import { useEntryForm } from "../job/useEntryForm.ts";
import { Button, Choice, TextField } from "../shared/controls.tsx";
import { useMoney } from "../shared/useMoney.ts";
import { hours } from "./hours.ts";

const RUST_WORDS: Readonly<Record<Rust, string>> = { none: "none", light: "light", heavy: "heavy", rotten: "rotten" };
const percent = (share: number) => `${Math.round(share * 100)} %`;

/** Where there are several ways to the same end: what each takes on this vehicle, what would flip it, and the choice. */
export function Ways({ data, disabled }: { data: PlanOfJob; disabled: boolean }) {
  const { job, state } = useJob();
  const money = useMoney();
  const own = state.plan?.body;
  const form = useEntryForm("plan", "plan", state.plan, own ?? { ways: [] });
  const { data: compared, isFetching } = useWays(job.id, data.ways.length > 0);
  if (data.ways.length === 0) return null;
  const save = (patch: Partial<NonNullable<typeof own>>) => void form.submit({ ...(own ?? { ways: [] }), ...patch });
  const choose = (end: string, id: string) => {
    const others = data.ways.filter((w) => w.end !== end).map((w) => w.chosen);
    save({ ways: [...others, id] });
  };
  const most = Math.max(1, ...(compared?.ways.map((w) => w.minutes[2]) ?? []));
  const chosen = data.ways.map((w) => w.chosen);
  return (
    <section aria-label="Ways" className="flex flex-col gap-3 border border-rule bg-panel p-4">
      {data.ways.map((w) => (
        <label key={w.end} className="flex flex-wrap items-center gap-2">
          <span className="label">Way</span>
          <select
            aria-label="Way"
            className="min-h-11 border border-field bg-panel px-2"
            value={w.chosen}
            disabled={disabled || form.pending}
            onChange={(e) => choose(w.end, e.target.value)}
          >
            {w.of.map((o) => (
              <option key={o.id} value={o.id}>
                {o.title}
              </option>
            ))}
          </select>
        </label>
      ))}
      <div className="flex flex-wrap items-end gap-4">
        <Choice
          label="Rust"
          value={own?.rust ?? "light"}
          disabled={disabled || form.pending}
          onChange={(rust) => save({ rust })}
          options={RUST.map((r) => ({ value: r, label: RUST_WORDS[r] }))}
        />
        <div className="w-28">
          <TextField
            key={own?.ageYears ?? 10}
            label="Age, years"
            inputMode="numeric"
            disabled={disabled}
            defaultValue={String(own?.ageYears ?? 10)}
            // stored when it is left, not with every figure
            onBlur={(e) => {
              const years = numberIn(e.target.value);
              if (years >= 0 && years <= 80 && years !== (own?.ageYears ?? 10)) save({ ageYears: years });
            }}
          />
        </div>
        <label className="flex min-h-11 items-center gap-2">
          <input
            type="checkbox"
            className="size-6"
            disabled={disabled}
            checked={own?.helper ?? compared?.conditions.helper ?? false}
            onChange={(e) => save({ helper: e.target.checked })}
          />
          A second person is here
        </label>
        <label className="flex min-h-11 items-center gap-2">
          <input
            type="checkbox"
            className="size-6"
            disabled={disabled}
            checked={own?.crane ?? compared?.conditions.crane ?? true}
            onChange={(e) => save({ crane: e.target.checked })}
          />
          Engine bar or crane
        </label>
      </div>
      {form.failure && (
        <p role="alert" className="font-semibold text-stop">
          {form.failure}
        </p>
      )}
      {!compared && isFetching && <p role="status">Comparing the ways on 1,000 drawn jobs …</p>}
      {compared && (
        <ol className="flex flex-col gap-3" aria-label="Ways compared">
          {compared.ways.map((w, i) => {
            const here = w.ways.every((id) => chosen.includes(id));
            return (
              <li
                key={w.ways.join()}
                className={here ? "border-l-4 border-action pl-3" : "border-l-4 border-rule pl-3"}
              >
                <div className="flex flex-wrap items-baseline justify-between gap-2">
                  <h4 className="text-lg">
                    {w.title}
                    {i === 0 && <span className="label text-clear"> · cheapest on average</span>}
                    {here && <span className="label text-action"> · chosen</span>}
                  </h4>
                  <p className="figures text-lg">
                    {money(w.cost)} · {hours(w.minutes[1])}
                  </p>
                </div>
                <svg
                  viewBox="0 0 300 14"
                  preserveAspectRatio="none"
                  className="my-1 h-4 w-full"
                  role="img"
                  aria-label={`${hours(w.minutes[0])} to ${hours(w.minutes[2])} in eight of ten jobs, ${hours(w.minutes[1])} in the middle`}
                >
                  <rect x="0" y="5" width="300" height="4" className="fill-ground" />
                  <rect
                    x={(300 * w.minutes[0]) / most}
                    y="2"
                    width={(300 * (w.minutes[2] - w.minutes[0])) / most}
                    height="10"
                    className="fill-rule"
                  />
                  <rect x={(300 * w.minutes[1]) / most - 1} y="0" width="2.5" height="14" className="fill-ink" />
                </svg>
                <p className="text-quiet">
                  {[
                    `${hours(w.minutes[0])} to ${hours(w.minutes[2])} in eight of ten`,
                    `${hours(w.handsMinutes)} of hands`,
                    w.people === 2 ? "two persons" : "one person",
                    `cheapest in ${percent(w.bestShare)} of the drawn jobs`,
                    ...w.lacks,
                  ].join(" · ")}
                </p>
                <details>
                  <summary className="label flex min-h-11 cursor-pointer items-center">What may go wrong</summary>
                  <ul>
                    {w.risks.slice(0, 8).map((r) => (
                      <li key={r.name} className="border-b border-rule py-1">
                        <span className="figures inline-block w-14">{percent(r.odds)}</span>
                        {r.name}, about {hours(r.minutes)} each. <span className="text-quiet">{r.remedy}</span>
                      </li>
                    ))}
                  </ul>
                </details>
                {!here && !disabled && (
                  <Button disabled={form.pending} onClick={() => save({ ways: [...w.ways] })}>
                    Take this way
                  </Button>
                )}
              </li>
            );
          })}
        </ol>
      )}
      {compared && (
        <p className="text-quiet">
          Hours include waits, moving about and what goes wrong; the plan’s own minutes are for a vehicle on which
          nothing does.
        </p>
      )}
      {compared && compared.flips.length > 0 && (
        <p className="flex items-start gap-2 border-l-4 border-caution bg-caution-wash p-2">
          <CarFront aria-hidden="true" className="mt-0.5 size-5 shrink-0" />
          <span>
            {compared.flips.map((f) => `${f.when.charAt(0).toUpperCase()}${f.when.slice(1)}: ${f.way}`).join(". ")}.
          </span>
        </p>
      )}
    </section>
  );
}
