import { type BenchMeasure, judgedValue, measureAgainWith, type OtherUnit, verdictText } from "@gearsense/core/bench";
import type { BenchValue } from "@gearsense/core/job";
import type { Instrument } from "@gearsense/core/knowledge";
import { readingsIn, windowText } from "@gearsense/core/measure";
import { readText } from "@gearsense/core/report";
import clsx from "clsx";
import { useId } from "react";
import { useSettings } from "../settings/settings.tsx";
import { Button } from "../shared/controls.tsx";
import { NumberField } from "../shared/NumberField.tsx";
import { type BenchForm, MAKER, shownUnit, shownValue } from "./bench-form.ts";

const TONE = { in: "text-clear", out: "text-stop", close: "text-caution", "no-limit": "text-quiet" } as const;

/** Enter takes the next reading of this field, and once it has all of them the next field: a micrometer with a cable sends it itself. */
function onEnter(e: React.KeyboardEvent<HTMLInputElement>, points: number, add: (text: string) => void): void {
  if (e.key !== "Enter") return;
  e.preventDefault();
  const text = e.currentTarget.value;
  const read = readingsIn(text)?.length ?? 0;
  if (read > 0 && read < points && !text.endsWith(" ")) {
    add(`${text} `);
    return;
  }
  const fields = [...(e.currentTarget.form?.querySelectorAll<HTMLInputElement>("input[data-reading]") ?? [])];
  const next = fields[fields.indexOf(e.currentTarget) + 1];
  if (next) next.focus();
  else e.currentTarget.form?.querySelector<HTMLButtonElement>("[data-primary]")?.focus();
}

/** One thing to measure: what it has to show, its readings in a large field, with what, and what they say. */
export function ReadingRow({
  measure,
  form,
  value,
  earlier,
  problem,
  question,
  instruments,
  disabled,
  onText,
  onPaste,
  onInstrument,
  onTemperature,
  onOwnUnit,
  onAsRead,
}: {
  measure: BenchMeasure;
  form: BenchForm;
  value: BenchValue | undefined;
  /** the same of an earlier build */
  earlier: { readonly job: string; readonly value: BenchValue } | undefined;
  problem: string | undefined;
  question: OtherUnit | undefined;
  instruments: readonly Instrument[];
  disabled: boolean;
  onText: (text: string) => void;
  onPaste: (text: string) => void;
  onInstrument: (id: string) => void;
  onTemperature: (c: number | null) => void;
  onOwnUnit: () => void;
  onAsRead: () => void;
}) {
  const id = useId();
  const { system } = useSettings();
  const unit = shownUnit(measure.unit, form.system);
  const shown = (x: number | undefined) => (x === undefined ? undefined : shownValue(x, measure.unit, form.system));
  const limits =
    measure.from === undefined && measure.to === undefined
      ? ""
      : windowText({ from: shown(measure.from), to: shown(measure.to), source: "" }, unit, unit === "in" ? 4 : 2);
  const judged = value && judgedValue(value);
  const again =
    judged?.call === "close"
      ? measureAgainWith(judged, { from: measure.from, to: measure.to }, measure.unit, instruments)
      : undefined;
  const fitting = instruments.filter((i) => i.unit === measure.unit || i.unit === undefined);
  const chosen = form.instruments[measure.id] ?? measure.instrument;
  return (
    <div className="grid items-start gap-x-3 gap-y-1 border-b border-rule py-2 sm:grid-cols-[minmax(150px,1fr)_210px_170px]">
      <div className="pt-1">
        <label htmlFor={id}>
          <span className="label block">
            {measure.name}
            {unit ? `, ${unit}` : ""}
          </span>
          <span className="block text-sm text-quiet">
            {limits}
            {measure.copper ? " at 20 °C" : ""}
            {limits && measure.points > 1 ? " · " : ""}
            {measure.points > 1 ? `${measure.points} readings` : ""}
          </span>
        </label>
        <div aria-live="polite">
          {value && judged && !question && (
            <p className={clsx("font-semibold", TONE[judged.call])}>
              {readText(value, system)}
              {judged.call === "no-limit" ? "" : `: ${verdictText(value)}`}
              {judged.call === "close" &&
                (again
                  ? `. Measure again with: ${again.name.toLowerCase()}`
                  : ". No instrument here decides it: it lies on its limit, count it as out")}
            </p>
          )}
          {earlier && (
            <p className="text-sm text-quiet">
              Job {earlier.job}: {readText(earlier.value, system)}
            </p>
          )}
        </div>
      </div>
      <div>
        <input
          id={id}
          data-reading
          inputMode="decimal"
          autoComplete="off"
          disabled={disabled}
          value={form.readings[measure.id] ?? ""}
          aria-invalid={problem || question ? true : undefined}
          aria-describedby={`${id}-says`}
          className="figures min-h-14 w-full rounded-sm border border-field bg-panel px-3 text-2xl text-ink aria-invalid:border-2 aria-invalid:border-stop"
          onChange={(e) => onText(e.target.value)}
          onKeyDown={(e) => onEnter(e, measure.points, onText)}
          onPaste={(e) => {
            const text = e.clipboardData.getData("text");
            // a column of a table goes over the fields below; one line is typed as it is
            if (!/\n./.test(text.trim())) return;
            e.preventDefault();
            onPaste(text);
          }}
        />
      </div>
      <div className="flex flex-col gap-1">
        <select
          aria-label={`${measure.name}: read with`}
          className="min-h-11 w-full rounded-sm border border-field bg-panel px-2 text-ink"
          disabled={disabled}
          value={chosen}
          onChange={(e) => onInstrument(e.target.value)}
        >
          {[...fitting, ...(measure.instrument === MAKER.id ? [MAKER] : [])].map((i) => (
            <option key={i.id} value={i.id}>
              {i.name}
            </option>
          ))}
        </select>
        {measure.copper && (
          <NumberField
            label={`Temperature, °C`}
            value={form.temperaturesC[measure.id] ?? null}
            onChange={onTemperature}
          />
        )}
      </div>
      <div id={`${id}-says`} className="sm:col-span-3">
        {problem && (
          <p role="alert" className="font-semibold text-stop">
            {problem}
          </p>
        )}
        {question && (
          <div
            role="alert"
            className="flex flex-wrap items-center gap-2 border-l-4 border-caution bg-caution-wash px-3 py-2"
          >
            <p className="min-w-0 flex-1">
              This looks like {question.unit}: it would be {Number(question.value.toPrecision(4))} {measure.unit}. Which
              is it?
            </p>
            <Button onClick={onOwnUnit}>
              It is {question.unit}: {Number(question.value.toPrecision(4))} {measure.unit}
            </Button>
            <Button onClick={onAsRead}>It stands as read</Button>
          </div>
        )}
      </div>
    </div>
  );
}
