import type { EntryBodies } from "@gearsense/core/job";
import {
  BATTERY_V,
  judgeBattery,
  judgeLeaks,
  judgeMisfire,
  judgePositions,
  LEAK_PLACES,
  LEVER_POSITIONS,
  type LeverPosition,
  type PositionSeen,
  type Rung,
  type Wetness,
} from "@gearsense/core/observe";
import { Choice } from "../shared/controls.tsx";
import { NumberField } from "../shared/NumberField.tsx";
import { MeasureFields } from "../suspects/MeasureFields.tsx";
import { LeakOutline } from "./LeakOutline.tsx";

type Values = EntryBodies["observation"]["values"];
interface Props {
  readonly rung: Rung;
  readonly value: EntryBodies["observation"];
  /** the outcome that the readings come to; undefined while they come to none */
  readonly choose: (outcome: string | undefined, values?: Values) => void;
  readonly error: string | undefined;
}

const CYLINDERS = 8;
const number = (v: Values, key: string): number | null => (typeof v[key] === "number" ? (v[key] as number) : null);
function withValue(values: Values, key: string, v: number | string | null | undefined): Values {
  const { [key]: _, ...rest } = values;
  return v === null || v === undefined || v === "" ? rest : { ...rest, [key]: v };
}

/** What a rung asks for. Readings are judged as they are typed; the outcome is shown and may be changed. */
export function RungFields({ rung, value, choose, error }: Props) {
  const { values } = value;
  const outcome = (
    <Choice
      label="Outcome"
      value={value.outcome === "" ? undefined : value.outcome}
      options={rung.outcomes.map((o) => ({ value: o.id, label: o.label }))}
      onChange={(o) => choose(o)}
      error={error && "Choose what was seen."}
    />
  );
  if (rung.measures)
    return (
      <>
        <MeasureFields
          measures={rung.measures}
          component="unit"
          onChange={(m) => {
            // what was chosen by eye stands until a number says otherwise
            if (m)
              choose(m.outcome, {
                ...values,
                ...Object.fromEntries(m.values.map((v) => [v.name.slice(0, 40), Number(v.value.toPrecision(4))])),
              });
          }}
        />
        {outcome}
      </>
    );
  if (rung.form === "battery") {
    const set = (key: string, n: number | null) => {
      const next = withValue(values, key, n);
      choose(
        judgeBattery({
          restV: number(next, "restV"),
          crankingV: number(next, "crankingV"),
          chargingV: number(next, "chargingV"),
        }),
        next,
      );
    };
    const [low, high] = BATTERY_V.charging;
    return (
      <>
        <div className="grid gap-3 sm:grid-cols-3">
          <NumberField
            label="At rest, V"
            hint={`from ${BATTERY_V.rest}`}
            value={number(values, "restV")}
            onChange={(n) => set("restV", n)}
          />
          <NumberField
            label="Starter turning, V"
            hint={`from ${BATTERY_V.cranking}`}
            value={number(values, "crankingV")}
            onChange={(n) => set("crankingV", n)}
          />
          <NumberField
            label="Charging, V"
            hint={`${low} to ${high}`}
            value={number(values, "chargingV")}
            onChange={(n) => set("chargingV", n)}
          />
        </div>
        {outcome}
      </>
    );
  }
  if (rung.form === "positions") {
    const set = (p: LeverPosition, s: PositionSeen) => {
      const next = { ...values, [p]: s };
      choose(judgePositions(next as Partial<Record<LeverPosition, PositionSeen>>), next);
    };
    return (
      <>
        <div className="flex flex-wrap gap-x-6 gap-y-2">
          {LEVER_POSITIONS.map((p) => (
            <Choice
              key={p}
              label={`Lever in ${p}: display and scan tool`}
              value={values[p] as PositionSeen | undefined}
              options={[
                { value: "agrees", label: `say ${p}` },
                { value: "other", label: "say another" },
                { value: "sticks", label: "stiff, play" },
              ]}
              onChange={(s) => set(p, s)}
            />
          ))}
        </div>
        {outcome}
      </>
    );
  }
  if (rung.form === "misfire") {
    const set = (key: string, n: number | null) => {
      const next = withValue(values, key, n);
      choose(judgeMisfire(Array.from({ length: CYLINDERS }, (_, i) => number(next, `cylinder-${i + 1}`))), next);
    };
    return (
      <>
        <div className="grid grid-cols-4 gap-3 md:grid-cols-8">
          {Array.from({ length: CYLINDERS }, (_, i) => `cylinder-${i + 1}`).map((key, i) => (
            <NumberField key={key} label={`Cyl. ${i + 1}`} value={number(values, key)} onChange={(n) => set(key, n)} />
          ))}
        </div>
        {outcome}
      </>
    );
  }
  if (rung.form === "leaks") {
    const places = Object.fromEntries(
      LEAK_PLACES.flatMap(({ id }) => (values[id] ? [[id, values[id] as Wetness]] : [])),
    );
    return (
      <>
        <LeakOutline
          places={places}
          onChange={(id, wetness) => {
            const next = withValue(values, id, wetness);
            const seen = Object.fromEntries(
              LEAK_PLACES.flatMap((p) => (next[p.id] ? [[p.id, next[p.id] as Wetness]] : [])),
            );
            choose(judgeLeaks(seen), next);
          }}
        />
        {outcome}
      </>
    );
  }
  return outcome;
}
