import type { EntryBodies, MeasuredValue } from "@gearsense/core/job";
import type { Measure } from "@gearsense/core/knowledge";
import {
  type Judged,
  judgeReadings,
  measuresFor,
  outcomeOf,
  QUANTITIES,
  readingsIn,
  SURE_ENOUGH,
  surePercent,
  type Window,
  weightOf,
  windowOf,
  windowText,
} from "@gearsense/core/measure";
import { fromDisplay, type Quantity, toDisplay, unitLabel } from "@gearsense/core/quantity";
import type { Unit } from "@gearsense/core/unit";
import clsx from "clsx";
import { useEffect, useState } from "react";
import { useKnowledge } from "../api/queries.ts";
import { useJob } from "../job/job-context.tsx";
import { useSettings } from "../settings/settings.tsx";
import { SelectField, TextField } from "../shared/controls.tsx";
import { NumberField } from "../shared/NumberField.tsx";

/** Numbers of a check with the outcome that they speak for. */
export interface Measured {
  readonly outcome: string;
  readonly values: NonNullable<EntryBodies["check"]["values"]>;
  readonly weight: number;
}

interface Typed {
  readonly readings: string;
  readonly instrument: string;
  readonly temperatureC: number | null;
  readonly torqueNm: number | null;
  /** from the maker's data, where the unit file has none */
  readonly from: number | null;
  readonly to: number | null;
}

const figure = (n: number) => String(Number(n.toPrecision(3)));

/**
 * The numbers of a check: what each has to show stands before it is measured; the outcome follows with its chance.
 * @param onChange - undefined while nothing that was typed can be judged
 */
export function MeasureFields({
  measures: ofCheck,
  component,
  onChange,
}: {
  measures: readonly Measure[];
  component: string;
  onChange: (m: Measured | undefined) => void;
}) {
  const { job } = useJob();
  const { data: knowledge } = useKnowledge(job.unitId);
  const { system, show } = useSettings();
  /** readings are typed and shown in the reader's units, and kept in those of the measure */
  const label = (m: Measure) => (QUANTITIES[m.unit] ? unitLabel(QUANTITIES[m.unit] as Quantity, system) : m.unit);
  const shown = (m: Measure, x: number) =>
    QUANTITIES[m.unit] ? toDisplay(x, QUANTITIES[m.unit] as Quantity, system) : x;
  const kept = (m: Measure, x: number) =>
    QUANTITIES[m.unit] ? fromDisplay(x, QUANTITIES[m.unit] as Quantity, system) : x;
  const named = (m: Measure, end?: string) => [m.name, end, label(m)].filter(Boolean).join(", ");
  const inUnits = (x: number | null, quantity: Quantity) => (x === null ? null : toDisplay(x, quantity, system));
  const fromUnits = (x: number | null, quantity: Quantity) => (x === null ? null : fromDisplay(x, quantity, system));
  const numbersOf = (m: Measure) => readingsIn(of(m).readings)?.map((x) => kept(m, x));
  const unit = job.unit as Unit;
  const measures = measuresFor(unit, ofCheck, component);
  const [typed, setTyped] = useState<Readonly<Record<string, Typed>>>(() =>
    Object.fromEntries(
      measures.map((m) => [
        m.id,
        { readings: "", instrument: m.instrument, temperatureC: null, torqueNm: null, from: null, to: null },
      ]),
    ),
  );
  const of = (m: Measure) => typed[m.id] as Typed;
  const set = (m: Measure, patch: Partial<Typed>) => setTyped((all) => ({ ...all, [m.id]: { ...of(m), ...patch } }));
  const windowFor = (m: Measure): Window | undefined => {
    const { torqueNm, from, to } = of(m);
    const known = windowOf(unit, m, component, torqueNm ?? undefined);
    if (known) return known;
    return from === null && to === null
      ? undefined
      : { from: from ?? undefined, to: to ?? undefined, source: "maker’s data, typed" };
  };
  const judge = (m: Measure): Judged | undefined => {
    const { instrument, temperatureC } = of(m);
    const numbers = numbersOf(m);
    const window = windowFor(m);
    const by = knowledge?.instruments.find((i) => i.id === instrument);
    if (!numbers || numbers.length === 0 || !window || !by || (m.copper && temperatureC === null)) return undefined;
    return judgeReadings(m, window, by, numbers, temperatureC ?? undefined);
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is told follows from what is typed
  useEffect(() => {
    const read = measures.flatMap((m) => {
      const judged = judge(m);
      return judged ? [{ measure: m, judged, m }] : [];
    });
    const found = outcomeOf(read, measures.length);
    onChange(
      found && {
        outcome: found.outcome,
        weight: weightOf(found.chance),
        values: read.map(({ m, judged }): MeasuredValue => {
          const { instrument, temperatureC, torqueNm } = of(m);
          const window = windowFor(m);
          return {
            name: m.name,
            unit: m.unit,
            readings: numbersOf(m) ?? [],
            instrument: knowledge?.instruments.find((i) => i.id === instrument)?.name ?? instrument,
            ...(m.copper && temperatureC !== null ? { temperatureC } : {}),
            ...(m.torque && torqueNm !== null ? { torqueNm } : {}),
            value: judged.value,
            uncertainty: judged.uncertainty,
            ...(window?.from === undefined ? {} : { from: window.from }),
            ...(window?.to === undefined ? {} : { to: window.to }),
            inside: judged.inside,
          };
        }),
      },
    );
  }, [typed, knowledge]);
  if (!knowledge) return <p role="status">Loading the instruments …</p>;
  return (
    <section aria-label="Numbers" className="flex flex-col gap-4 border border-rule p-3">
      {measures.map((m) => {
        const window = windowFor(m);
        const known = windowOf(unit, m, component, of(m).torqueNm ?? undefined) !== undefined;
        const judged = judge(m);
        const wrong = readingsIn(of(m).readings) === undefined;
        return (
          <fieldset key={m.id} className="flex flex-col gap-2">
            <legend className="label">{m.name}</legend>
            <p className="text-quiet">
              {window
                ? `Has to be ${windowText(
                    {
                      ...window,
                      from: window.from === undefined ? undefined : shown(m, window.from),
                      to: window.to === undefined ? undefined : shown(m, window.to),
                    },
                    label(m),
                    label(m) === "in" ? 3 : 2,
                  )}${m.copper ? ` at ${show(20, "temperature")}` : ""} (${window.source}).`
                : "The unit file gives no limit: type it from the maker’s data."}
            </p>
            {!known && (
              <div className="grid grid-cols-2 gap-3">
                {(["from", "to"] as const)
                  // only the ends that speak for an outcome
                  .filter((end) => (end === "from" ? m.below || !m.above : m.above || !m.below))
                  .map((end) => (
                    <NumberField
                      key={end}
                      label={named(m, end)}
                      decimals={3}
                      value={of(m)[end] === null ? null : shown(m, of(m)[end] as number)}
                      onChange={(n) => set(m, { [end]: n === null ? null : kept(m, n) })}
                    />
                  ))}
              </div>
            )}
            <div className="grid gap-3 sm:grid-cols-[1fr_200px_130px]">
              <TextField
                label={named(m)}
                hint={m === measures[0] ? "Several readings with a space between them." : undefined}
                inputMode="decimal"
                value={of(m).readings}
                onChange={(e) => set(m, { readings: e.target.value })}
                error={wrong ? "Numbers with a space between them, such as 1.52 1.55." : undefined}
              />
              <SelectField
                label="Read with"
                value={of(m).instrument}
                onChange={(e) => set(m, { instrument: e.target.value })}
              >
                {knowledge.instruments.map((i) => (
                  <option key={i.id} value={i.id}>
                    {i.name}
                  </option>
                ))}
              </SelectField>
              {m.copper && (
                <NumberField
                  label={`Its temperature, ${unitLabel("temperature", system)}`}
                  value={inUnits(of(m).temperatureC, "temperature")}
                  onChange={(n) => set(m, { temperatureC: fromUnits(n, "temperature") })}
                />
              )}
              {m.torque && (
                <NumberField
                  label={`Engine torque, ${unitLabel("torque", system)}`}
                  value={inUnits(of(m).torqueNm, "torque")}
                  onChange={(n) => set(m, { torqueNm: fromUnits(n, "torque") })}
                />
              )}
            </div>
            {judged && (
              <p
                className={clsx(
                  "font-semibold",
                  judged.inside >= SURE_ENOUGH
                    ? "text-clear"
                    : judged.inside < 1 - SURE_ENOUGH
                      ? "text-stop"
                      : "text-caution",
                )}
                aria-live="polite"
              >
                {figure(shown(m, judged.value))} ± {figure(shown(m, 2 * judged.uncertainty))} {label(m)}
                {m.copper ? ` at ${show(20, "temperature")}` : ""}:{" "}
                {judged.inside >= SURE_ENOUGH
                  ? `in, ${surePercent(judged.inside)} sure`
                  : judged.inside < 1 - SURE_ENOUGH
                    ? `out, ${surePercent(1 - judged.inside)} sure`
                    : `too close to call, ${surePercent(judged.inside)} in: measure again, or with a finer instrument`}
              </p>
            )}
          </fieldset>
        );
      })}
    </section>
  );
}
