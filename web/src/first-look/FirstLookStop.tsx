import type { EntryBodies } from "@gearsense/core/job";
import { fromDisplay, toDisplay, unitLabel } from "@gearsense/core/quantity";
import { useJob } from "../job/job-context.tsx";
import { useEntryForm } from "../job/useEntryForm.ts";
import { useSettings } from "../settings/settings.tsx";
import { Cautions } from "../shared/Caution.tsx";
import { Choice, Heading, TextField } from "../shared/controls.tsx";
import { NumberField } from "../shared/NumberField.tsx";
import { Codes } from "./Codes.tsx";
import { ReadingForm } from "./ReadingForm.tsx";

/** Nothing is chosen beforehand: a reading that nobody made must not be stored by a slip of the hand. */
type Unread<T, K extends keyof T> = Omit<T, K> & { [P in K]: T[P] | undefined };
type Level = Unread<EntryBodies["level"], "state">;
type Fluid = Unread<EntryBodies["fluid"], "colour" | "smell">;

export default function FirstLookStop() {
  return (
    <>
      <Heading title="First look">
        Minutes that rule out most false trails: level and condition before anything else.
      </Heading>
      <div className="flex flex-col gap-6">
        <LevelForm />
        <FluidForm />
        <Codes />
      </div>
    </>
  );
}

function LevelForm() {
  const { job, state } = useJob();
  const { system, showRange, show } = useSettings();
  const { level } = job.unit.fluid;
  const form = useEntryForm<Level>(
    "level",
    "level",
    state.level,
    state.level?.body ?? {
      state: undefined,
      method: level.method,
      fluidC: null,
      litresFromFull: null,
      engineRunning: true,
      note: "",
    },
  );
  const v = form.value;
  const outside = v.fluidC !== null && (v.fluidC < level.windowC[0] || v.fluidC > level.windowC[1]);
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
            { value: "ok", label: "In the window" },
            { value: "high", label: "Over full" },
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
      </div>
      <div className="grid gap-3 sm:grid-cols-[1.4fr_1fr_1fr]">
        <TextField
          label="How it was read"
          value={v.method}
          onChange={(e) => form.set({ method: e.target.value })}
          error={form.errors.method}
        />
        <NumberField
          label={`Fluid temperature, ${unitLabel("temperature", system)}`}
          value={v.fluidC === null ? null : toDisplay(v.fluidC, "temperature", system)}
          onChange={(n) => form.set({ fluidC: n === null ? null : fromDisplay(n, "temperature", system) })}
          error={form.errors.fluidC}
        />
        <NumberField
          label={`From full, ${unitLabel("volume", system)}`}
          hint="− is low"
          value={v.litresFromFull === null ? null : toDisplay(v.litresFromFull, "volume", system)}
          onChange={(n) => form.set({ litresFromFull: n === null ? null : fromDisplay(n, "volume", system) })}
          error={form.errors.litresFromFull}
        />
      </div>
      {outside && (
        <p className="border-l-4 border-caution bg-caution-wash px-3 py-1.5">
          This temperature is outside the window of the unit file: the reading is not the level. Warm or cool it and
          read again.
        </p>
      )}
      {!v.engineRunning && level.method === "overflow" && (
        <p className="border-l-4 border-caution bg-caution-wash px-3 py-1.5">
          This unit is read with the engine running: read with it off it shows too much.
        </p>
      )}
    </ReadingForm>
  );
}

function FluidForm() {
  const { state } = useJob();
  const form = useEntryForm<Fluid>(
    "fluid",
    "fluid",
    state.fluid,
    state.fluid?.body ?? { colour: undefined, smell: undefined, note: "" },
  );
  const v = form.value;
  return (
    <ReadingForm
      form={form}
      label="Fluid condition"
      action="Store the condition"
      title={<h2 className="text-xl">Fluid condition</h2>}
      fieldsClass="flex flex-wrap gap-x-8 gap-y-3"
      after={<p className="text-sm text-quiet">The dye differs from fluid to fluid: darkness alone proves nothing.</p>}
    >
      <Choice
        label="Colour"
        value={v.colour}
        options={[
          { value: "fresh", label: "Fresh" },
          { value: "amber", label: "Amber" },
          { value: "brown", label: "Brown" },
          { value: "black", label: "Black" },
          { value: "milky", label: "Milky" },
        ]}
        onChange={(colour) => form.set({ colour })}
        error={form.errors.colour && "Choose a colour."}
      />
      <Choice
        label="Smell"
        value={v.smell}
        options={[
          { value: "none", label: "None" },
          { value: "varnish", label: "Varnish" },
          { value: "burnt", label: "Burnt" },
        ]}
        onChange={(smell) => form.set({ smell })}
        error={form.errors.smell && "Choose a smell."}
      />
    </ReadingForm>
  );
}
