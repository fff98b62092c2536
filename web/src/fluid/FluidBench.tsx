import {
  equivalentHours,
  freshnessCurve,
  type HeatSpell,
  leftAfterExchange,
  shareAbove,
  TYPICAL_MIXING,
} from "@gearsense/core/fluid";
import { fromDisplay, toDisplay, unitLabel } from "@gearsense/core/quantity";
import type { Unit } from "@gearsense/core/unit";
import clsx from "clsx";
import { addDays, formatISO } from "date-fns";
import { CalendarPlus } from "lucide-react";
import type { ReactNode } from "react";
import { toast } from "sonner";
import { ApiFailure, callFile } from "../api/client.ts";
import { useSettings } from "../settings/settings.tsx";
import { Button, Choice, Notice, TextField } from "../shared/controls.tsx";
import { download } from "../shared/download.ts";
import { NumberField } from "../shared/NumberField.tsx";
import { PlainTable } from "../shared/PlainTable.tsx";
import { Ticks } from "../shared/Ticks.tsx";
import { useMoney } from "../shared/useMoney.ts";
import { BANDS, type BenchValue, bandText, DUTY, idOf, TARGETS, type Worked, workOut } from "./bench-model.ts";
import { FreshnessChart } from "./FreshnessChart.tsx";
import { LevelSentence } from "./LevelSentence.tsx";

const isoDay = (d: Date) => formatISO(d, { representation: "date" });

/** Level, age, renewal, mixing and the next interval of one unit's fluid. */
export function FluidBench({
  unit,
  value: v,
  onChange,
  hourlyRate,
  measured = [],
  odometerKm,
  title,
  actions,
}: {
  unit: Unit;
  value: BenchValue;
  onChange: (p: Partial<BenchValue>) => void;
  hourlyRate: number;
  /** temperatures of the recorded drives, when nobody types a history */
  measured?: readonly HeatSpell[];
  odometerKm?: number;
  title: string;
  actions?: (worked: Worked) => ReactNode;
}) {
  const { system, show } = useSettings();
  const money = useMoney();
  const worked = workOut(unit, v, hourlyRate, measured);
  const { totalL } = unit.fluid;
  const volume = (field: "litresFromFull" | "drainL", label: string, hint: string) => (
    <NumberField
      label={`${label}, ${unitLabel("volume", system)}`}
      hint={hint}
      value={v[field] === null ? null : toDisplay(v[field] as number, "volume", system)}
      onChange={(n) => onChange({ [field]: n === null ? null : fromDisplay(n, "volume", system) })}
      error={
        field === "drainL" && v.drainL !== null && (v.drainL <= 0 || v.drainL > totalL)
          ? `${unit.name} holds ${show(totalL, "volume", 1)}`
          : undefined
      }
    />
  );
  const curve = freshnessCurve(
    totalL,
    worked.drainL,
    TYPICAL_MIXING,
    Math.max(totalL * 2.2, worked.chosen.litres * 1.2),
  );
  const saveCalendar = async () => {
    const today = new Date();
    const events = worked.due.flatMap((d) =>
      d.inDays === null ? [] : [{ what: d.what, dueOn: isoDay(addDays(today, d.inDays)), note: d.why }],
    );
    try {
      download("follow-ups.ics", await callFile("calendar", { body: { title, events } }));
    } catch (error) {
      if (!(error instanceof ApiFailure)) throw error;
      toast(error.message);
    }
  };
  return (
    <div className="flex flex-col gap-5">
      <section aria-label="Level at temperature" className="border border-rule bg-panel p-4">
        <h2 className="text-xl">Level at temperature</h2>
        <div className="mt-2 grid gap-3 sm:grid-cols-[1fr_1fr_2fr]">
          <NumberField
            label={`Read at, ${unitLabel("temperature", system)}`}
            value={v.fluidC === null ? null : toDisplay(v.fluidC, "temperature", system)}
            onChange={(n) => onChange({ fluidC: n === null ? null : fromDisplay(n, "temperature", system) })}
          />
          {volume("litresFromFull", "From full", "− is low")}
          <p role="status" className="self-center">
            {worked.level ? (
              <LevelSentence level={worked.level} />
            ) : (
              <span className="text-quiet">Type what was read and at which temperature.</span>
            )}
          </p>
        </div>
      </section>
      <section aria-label="Age" className="border border-rule bg-panel p-4">
        <h2 className="text-xl">Age by heat</h2>
        <p className="text-quiet">
          Hours at each temperature since the fill; fluid ages twice as fast every {show(10, "temperature-difference")}{" "}
          above {show(90, "temperature")}.{measured.length > 0 && " Left empty, the recorded drives stand in."}
        </p>
        <div className="mt-2 grid grid-cols-2 gap-3 md:grid-cols-5">
          {BANDS.map((b) => (
            <NumberField
              key={b.id}
              label={`Hours ${bandText(b, system)}`}
              value={v.hours[b.id] ?? null}
              onChange={(n) => onChange({ hours: { ...v.hours, [b.id]: n === null ? null : Math.max(0, n) } })}
            />
          ))}
        </div>
        {worked.history.length > 0 && (
          <p className="mt-2 figures text-lg" role="status">
            Same as {equivalentHours(worked.history).toFixed(equivalentHours(worked.history) < 10 ? 2 : 0)} hours at{" "}
            {show(90, "temperature")}; {Math.round(shareAbove(worked.history, 110) * 100)} % of the time above{" "}
            {show(110, "temperature")}
          </p>
        )}
      </section>
      <section aria-label="Renewal" className="border border-rule bg-panel p-4">
        <h2 className="text-xl">Renewal</h2>
        <div className="mt-2 flex flex-wrap items-start gap-x-6 gap-y-3">
          <Choice
            label="Aim: fresh"
            value={String(v.targetPct) as "85"}
            options={TARGETS}
            onChange={(t) => onChange({ targetPct: Number(t) })}
          />
          {volume("drainL", "One drain takes out", `of ${show(totalL, "volume", 1)} in the unit`)}
          <NumberField
            label="Price a litre"
            value={v.pricePerLitre}
            onChange={(pricePerLitre) =>
              onChange({ pricePerLitre: pricePerLitre === null ? null : Math.max(0, pricePerLitre) })
            }
          />
          <TextField
            label="In it now"
            hint="empty: nobody knows"
            value={v.inUnit}
            onChange={(e) => onChange({ inUnit: e.target.value })}
          />
          <TextField label="To be filled" value={v.toFill} onChange={(e) => onChange({ toFill: e.target.value })} />
        </div>
        {worked.warnings.map((w) => (
          <div key={w} className="mt-2">
            <Notice tone="caution">{w}</Notice>
          </div>
        ))}
        <div className="mt-3 grid gap-4 2xl:grid-cols-[1fr_1.1fr]">
          <table className="w-full self-start text-left">
            <caption className="sr-only">Ways to renew the fluid</caption>
            <thead>
              <tr className="border-b border-ink">
                <th className="py-1">Way</th>
                <th className="pr-3">Litres</th>
                <th className="pr-3">Fresh</th>
                <th className="pr-3">Minutes</th>
                <th>Cost</th>
              </tr>
            </thead>
            <tbody>
              {worked.options.map((o) => {
                const on = o === worked.chosen;
                return (
                  <tr
                    key={idOf(o)}
                    className={clsx("border-b border-rule", on && "bg-action-wash", !o.reaches && "text-quiet")}
                  >
                    <td>
                      <label className="flex min-h-11 items-center gap-2">
                        <input
                          type="radio"
                          name="way"
                          className="size-5"
                          checked={on}
                          onChange={() => onChange({ way: idOf(o) })}
                        />
                        {o.kind === "exchange" ? "Machine exchange" : `${o.times} × drain and fill`}
                      </label>
                    </td>
                    <td className="figures pr-3 whitespace-nowrap">{show(o.litres, "volume", 1)}</td>
                    <td className="figures pr-3 whitespace-nowrap">
                      {Math.round(o.fresh * 100)} %{o.reaches ? "" : ", short"}
                    </td>
                    <td className="figures pr-3 whitespace-nowrap">{Math.round(o.minutes)}</td>
                    <td className="figures pr-3 whitespace-nowrap">{money(o.cost)}</td>
                  </tr>
                );
              })}
            </tbody>
          </table>
          <FreshnessChart curve={curve} target={v.targetPct / 100} chosen={worked.chosen} />
        </div>
        <p className="mt-1 text-sm text-quiet">
          An exchange lies between plug flow and ideal mixing (
          {Math.round((1 - leftAfterExchange(worked.chosen.litres, totalL, 0)) * 100)} to{" "}
          {Math.round((1 - leftAfterExchange(worked.chosen.litres, totalL, 1)) * 100)} % at these litres). No pressure
          flush.
        </p>
      </section>
      <section aria-label="Next interval" className="border border-rule bg-panel p-4">
        <h2 className="text-xl">Next change</h2>
        <div className="mt-2 flex flex-wrap items-start gap-x-6 gap-y-3">
          <Ticks label="Duty and findings" value={v.duty} options={DUTY} onChange={(duty) => onChange({ duty })} />
          <NumberField
            label={`A year, ${unitLabel("distance", system)}`}
            hint="turns distances into dates"
            value={v.kmPerYear === null ? null : toDisplay(v.kmPerYear, "distance", system)}
            onChange={(n) =>
              onChange({ kmPerYear: n === null ? null : Math.max(0, fromDisplay(n, "distance", system)) })
            }
          />
        </div>
        <p className="figures mt-2 text-xl" role="status">
          In {show(worked.interval.km, "distance", 0)}
          {odometerKm === undefined ? "" : `, at ${show(odometerKm + worked.interval.km, "distance", 0)}`}
        </p>
        <ul className="list-disc pl-5 text-quiet">
          <li>{show(unit.fluid.intervalKm, "distance", 0)} by the unit file</li>
          {worked.interval.reasons.map((r) => (
            <li key={r.why}>
              × {r.factor}: {r.why}
            </li>
          ))}
        </ul>
        <div className="mt-2">
          <PlainTable
            caption="Follow-ups"
            columns={["What", "On", "At", "Why"]}
            rows={worked.due.map((d) => [
              d.what,
              d.inDays === null ? "by distance" : isoDay(addDays(new Date(), d.inDays)),
              d.inKm === null
                ? "–"
                : show((odometerKm ?? 0) + d.inKm, "distance", 0) + (odometerKm === undefined ? " from now" : ""),
              d.why,
            ])}
          />
        </div>
        <div className="mt-3 flex flex-wrap justify-end gap-2">
          <Button onClick={() => void saveCalendar()}>
            <CalendarPlus aria-hidden="true" className="size-5" />
            Save the dates (iCalendar)
          </Button>
          {actions?.(worked)}
        </div>
      </section>
    </div>
  );
}
