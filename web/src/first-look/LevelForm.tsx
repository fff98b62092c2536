import { judgeLevel, levelMistakes, readRunning } from "@gearsense/core/fluid";
import type { EntryBodies } from "@gearsense/core/job";
import { fromDisplay, toDisplay, unitLabel } from "@gearsense/core/quantity";
import { LevelSentence } from "../fluid/LevelSentence.tsx";
import { useJob } from "../job/job-context.tsx";
import { useEntryForm } from "../job/useEntryForm.ts";
import { useSettings } from "../settings/settings.tsx";
import { Cautions } from "../shared/Caution.tsx";
import { Choice, Notice, TextField } from "../shared/controls.tsx";
import { NumberField } from "../shared/NumberField.tsx";
import { ReadingForm } from "./ReadingForm.tsx";

/** Nothing is chosen beforehand: a reading that nobody made must not be stored by a slip of the hand. */
type Level = Omit<EntryBodies["level"], "state"> & { state: EntryBodies["level"]["state"] | undefined };

const YES_NO = [
  { value: "yes", label: "Yes" },
  { value: "no", label: "No" },
] as const;
const asked = (v: boolean | undefined) => (v === undefined ? undefined : v ? "yes" : "no");

/** The level by the unit's own procedure, converted to its reference temperature, with what was done wrong. */
export function LevelForm() {
  const { job, state } = useJob();
  const { system, showRange, show } = useSettings();
  const { unit } = job;
  const { level } = unit.fluid;
  const running = readRunning(unit);
  const form = useEntryForm<Level>(
    "level",
    "level",
    state.level,
    state.level?.body ?? {
      state: undefined,
      method: level.method,
      fluidC: null,
      litresFromFull: null,
      engineRunning: running,
      note: "",
    },
  );
  const v = form.value;
  const mistakes = levelMistakes(unit, v);
  const judged = judgeLevel(unit, v);
  const litres = (field: "litresFromFull" | "otherSideL", label: string, hint: string) => (
    <NumberField
      label={`${label}, ${unitLabel("volume", system)}`}
      hint={hint}
      value={v[field] == null ? null : toDisplay(v[field] as number, "volume", system)}
      onChange={(n) => form.set({ [field]: n === null ? null : fromDisplay(n, "volume", system) })}
      error={form.errors[field]}
    />
  );
  return (
    <ReadingForm
      form={form}
      label="Fluid level"
      action="Store the level"
      primary={!state.level}
      title={
        <>
          <h2 className="text-xl">
            Fluid level{" "}
            {!state.level && <span className="text-action">· not recorded: costly steps warn until it is</span>}
          </h2>
          <p className="text-quiet">
            {level.steps} Window {showRange(level.windowC[0], level.windowC[1], "temperature")}, reference{" "}
            {show(level.referenceC, "temperature")} (unit file).
          </p>
        </>
      }
      before={<Cautions names={["under-vehicle", "hot-fluid"]} />}
      fieldsClass="flex flex-col gap-3"
    >
      <div className="flex flex-wrap gap-x-8 gap-y-3">
        <Choice
          label="Level"
          value={v.state}
          options={[
            { value: "low", label: "Low" },
            { value: "ok", label: "Level correct" },
            { value: "high", label: "Overfilled" },
            { value: "not-readable", label: "Not readable" },
          ]}
          onChange={(s) => form.set({ state: s })}
          error={form.errors.state && "Choose what was read."}
        />
        <Choice
          label="Engine"
          value={v.engineRunning ? "on" : "off"}
          options={[
            { value: "on", label: "Running" },
            { value: "off", label: "Off" },
          ]}
          onChange={(s) => form.set({ engineRunning: s === "on" })}
        />
        {running && (
          <Choice
            label="Ranges cycled first"
            value={asked(v.rangesCycled)}
            options={YES_NO}
            onChange={(s) => form.set({ rangesCycled: s === "yes" })}
          />
        )}
        <Choice
          label="Stands level"
          value={asked(v.onLevelGround)}
          options={YES_NO}
          onChange={(s) => form.set({ onLevelGround: s === "yes" })}
        />
      </div>
      <div className="grid gap-3 sm:grid-cols-3">
        <NumberField
          label={`Fluid temperature, ${unitLabel("temperature", system)}`}
          value={v.fluidC === null ? null : toDisplay(v.fluidC, "temperature", system)}
          onChange={(n) => form.set({ fluidC: n === null ? null : fromDisplay(n, "temperature", system) })}
          error={form.errors.fluidC}
        />
        {litres("litresFromFull", "From full", "− is low")}
        {level.method === "dipstick" ? (
          litres("otherSideL", "Other side of the stick", "the lower counts")
        ) : (
          <TextField
            label="How it was read"
            value={v.method}
            onChange={(e) => form.set({ method: e.target.value })}
            error={form.errors.method}
          />
        )}
        {level.method === "dipstick" && (
          <NumberField
            label="Minutes since filling"
            hint="the tube stays wet for ten"
            value={v.minutesSinceFilling ?? null}
            onChange={(minutesSinceFilling) => form.set({ minutesSinceFilling })}
            error={form.errors.minutesSinceFilling}
          />
        )}
        <NumberField
          label="Minutes spent"
          value={v.minutes ?? null}
          onChange={(minutes) => form.set({ minutes })}
          error={form.errors.minutes}
        />
      </div>
      {judged && (
        <p role="status" className="border-l-4 border-slate bg-panel px-3 py-1.5">
          <LevelSentence level={judged} />{" "}
          <span className="text-quiet">
            {judged.state === "undecided"
              ? "too near the limit to say: read it again in the window"
              : `limit ± ${show(level.toleranceL, "volume", 1)} (unit file)`}
          </span>
        </p>
      )}
      {mistakes.map((m) => (
        <Notice key={m.id} tone={m.spoils ? "stop" : "caution"}>
          {m.text}
        </Notice>
      ))}
    </ReadingForm>
  );
}
