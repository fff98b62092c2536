import type { EntryBodies } from "@gearsense/core/job";
import { ReadingForm } from "../first-look/ReadingForm.tsx";
import { useJob } from "../job/job-context.tsx";
import { useEntryForm } from "../job/useEntryForm.ts";
import { Choice } from "../shared/controls.tsx";
import { ColourTool } from "./ColourTool.tsx";

type Unread<T, K extends keyof T> = Omit<T, K> & { [P in K]: T[P] | undefined };
type Fluid = Unread<EntryBodies["fluid"], "colour" | "smell">;

/** What the fluid looks and smells like, in words and by photo. */
export function FluidCondition({ withPhoto = false }: { withPhoto?: boolean }) {
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
      after={
        <p className="text-sm text-quiet">
          The dye differs from fluid to fluid: darkness alone proves nothing. Colour tells of water, of heat together
          with smell, and of change since the last record.
        </p>
      }
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
      <Choice
        label="Clarity"
        value={v.cloudiness}
        options={[
          { value: "clear", label: "Clear" },
          { value: "hazy", label: "Hazy" },
          { value: "milky", label: "Milky, water" },
          { value: "foamy", label: "Foam, air" },
        ]}
        onChange={(cloudiness) => form.set({ cloudiness })}
      />
      <Choice
        label="Drop on blotting paper"
        value={v.blot}
        options={[
          { value: "even", label: "Spreads evenly" },
          { value: "dark-core", label: "Dark core" },
          { value: "water-rim", label: "Wet rim" },
          { value: "not-done", label: "Not done" },
        ]}
        onChange={(blot) => form.set({ blot })}
      />
      {withPhoto && <ColourTool value={v.photo} onChange={(photo) => form.set({ photo })} />}
    </ReadingForm>
  );
}
