import clsx from "clsx";
import { useId } from "react";
import { useSettings } from "../settings/settings.tsx";
import { Choice, TextField } from "../shared/controls.tsx";
import { Ticks } from "../shared/Ticks.tsx";
import { LOADS, type SymptomValue, TEMPERATURES } from "./intake-model.ts";
import { bandsOf, placesOf, SPEED_EDGES_KMH, touchBand } from "./situation.ts";

const ROAD: readonly { load: SymptomValue["load"]; left: number; width: number; word: string }[] = [
  { load: "coast", left: 0, width: 22, word: "Over-run" },
  { load: "light", left: 22, width: 22, word: "Light foot" },
  { load: "steady", left: 44, width: 24, word: "Steady" },
  { load: "hard", left: 68, width: 32, word: "Hard, uphill" },
];
const AFTER = [
  { value: "any", label: "Any time" },
  { value: "first-minutes", label: "First minutes" },
  { value: "later", label: "After a while" },
] as const;
const OFTEN = [
  { value: "always", label: "Always" },
  { value: "often", label: "Often" },
  { value: "sometimes", label: "Now and then" },
  { value: "once", label: "Once" },
] as const;

/** When a sign shows: touched on a road, on the gears, on a band of speed. */
export function SituationPicture({
  value,
  onChange,
  gears,
  number,
  error,
}: {
  value: SymptomValue;
  onChange: (p: Partial<SymptomValue>) => void;
  gears: readonly string[];
  number: number;
  error: string | undefined;
}) {
  const { show } = useSettings();
  const places = placesOf(gears);
  const bands = bandsOf(value.speedKmh);
  const speedId = useId();
  const part = (list: readonly string[]) => value.where.filter((w) => list.includes(w));
  const setPart = (list: readonly string[], chosen: string[]) =>
    onChange({ where: [...value.where.filter((w) => !list.includes(w)), ...chosen] });
  const named = (list: readonly string[]) => list.map((v) => ({ value: v, label: v }));
  return (
    <div className="flex flex-col gap-3">
      <div>
        <span className="label">Load: tap the place on the road</span>
        <div
          role="radiogroup"
          aria-label={`Load of symptom ${number}`}
          className="relative mt-1 h-[104px] border border-field bg-panel"
        >
          <svg
            viewBox="0 0 100 26"
            preserveAspectRatio="none"
            aria-hidden="true"
            className="absolute inset-0 size-full"
          >
            <path d="M0 8 L22 20 L68 20 L100 5 L100 26 L0 26 Z" className="fill-rule" />
            <path
              d="M0 8 L22 20 L68 20 L100 5"
              className="fill-none stroke-ink"
              strokeWidth="2"
              vectorEffect="non-scaling-stroke"
            />
            <path
              d="M22 20 L68 20"
              className="fill-none stroke-quiet"
              strokeDasharray="10 8"
              vectorEffect="non-scaling-stroke"
              transform="translate(0 2.4)"
            />
          </svg>
          {ROAD.map((r) => {
            const on = value.load === r.load;
            return (
              // biome-ignore lint/a11y/useSemanticElements: areas of a drawing, one of which is chosen
              <button
                key={r.load}
                type="button"
                role="radio"
                aria-checked={on}
                aria-label={LOADS.find((l) => l.value === r.load)?.label}
                onClick={() => onChange({ load: on ? "any" : r.load })}
                className={clsx(
                  "absolute inset-y-0 flex items-start justify-center border-r border-dashed border-field pt-1 last:border-r-0",
                  on ? "bg-slate/85 text-on-slate" : "hover:bg-action-wash/60",
                )}
                style={{ left: `${r.left}%`, width: `${r.width}%` }}
              >
                <span className="label text-[15px]">{r.word}</span>
              </button>
            );
          })}
        </div>
      </div>
      <div className="flex flex-col gap-1.5">
        <Ticks
          label="In gear"
          value={part(places.gears)}
          options={named(places.gears)}
          onChange={(v) => setPart(places.gears, v)}
          error={error}
        />
        <div className="flex flex-wrap gap-x-6 gap-y-1.5">
          <Ticks
            label="Shift up"
            value={part(places.up)}
            options={named(places.up)}
            onChange={(v) => setPart(places.up, v)}
          />
          <Ticks
            label="Shift down"
            value={part(places.down)}
            options={named(places.down)}
            onChange={(v) => setPart(places.down, v)}
          />
        </div>
      </div>
      <div>
        <span id={speedId} className="label">
          Speed
          {value.speedKmh
            ? `: ${show(value.speedKmh[0], "vehicle-speed", 0)} to ${show(value.speedKmh[1], "vehicle-speed", 0)}`
            : ": any"}
        </span>
        {/* biome-ignore lint/a11y/useSemanticElements: bands of one scale */}
        <div role="group" aria-labelledby={speedId} className="mt-1 flex">
          {bands.map((on, i) => (
            <button
              key={SPEED_EDGES_KMH[i]}
              type="button"
              aria-pressed={on}
              aria-label={`${show(SPEED_EDGES_KMH[i] as number, "vehicle-speed", 0)} to ${show(SPEED_EDGES_KMH[i + 1] as number, "vehicle-speed", 0)}`}
              onClick={() => onChange({ speedKmh: touchBand(value.speedKmh, i) })}
              className={clsx(
                "figures min-h-11 flex-1 border-y border-r border-field first:border-l",
                on ? "bg-slate text-on-slate" : "bg-panel hover:bg-action-wash",
              )}
            >
              {show(SPEED_EDGES_KMH[i] as number, "vehicle-speed", 0).replace(/\s.*$/, "")}+
            </button>
          ))}
        </div>
      </div>
      <div className="flex flex-wrap gap-x-6 gap-y-2">
        <Choice
          label="Temperature"
          value={value.temperature}
          options={TEMPERATURES}
          onChange={(temperature) => onChange({ temperature })}
        />
        <Choice
          label="After the start"
          value={value.afterStart ?? "any"}
          options={AFTER}
          onChange={(a) => onChange({ afterStart: a === "any" ? undefined : a })}
        />
        <Choice
          label="How often"
          value={value.howOften}
          options={OFTEN}
          onChange={(howOften) => onChange({ howOften })}
        />
      </div>
      <div className="grid gap-3 sm:grid-cols-2">
        <TextField
          label="What helps or makes it worse"
          placeholder="goes away when the foot lifts"
          value={value.helps ?? ""}
          maxLength={120}
          onChange={(e) => onChange({ helps: e.target.value })}
        />
        <TextField
          label="Since"
          placeholder="spring, 2000 km"
          value={value.since}
          maxLength={120}
          onChange={(e) => onChange({ since: e.target.value })}
        />
      </div>
    </div>
  );
}
