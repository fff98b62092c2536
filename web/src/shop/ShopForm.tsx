import { useState } from "react";
import { ApiFailure } from "../api/client.ts";
import { useSaveShop, useShop } from "../api/shop-queries.ts";
import { Button, Notice, TextArea, TextField } from "../shared/controls.tsx";
import { fieldError, plainError } from "../shared/field-errors.ts";
import { NumberField } from "../shared/NumberField.tsx";

interface Typed {
  readonly name: string;
  readonly currency: string;
  readonly hourlyRate: number | null;
  readonly taxPercent: number | null;
  readonly terms: string;
  readonly ownOdds: boolean;
}
const NOTHING: Typed = { name: "", currency: "", hourlyRate: null, taxPercent: null, terms: "", ownOdds: false };

/** What the shop is called and charges. What is typed outlives another owner's change. */
export function ShopForm({ mayChange }: { mayChange: boolean }) {
  const { data: shop, error } = useShop();
  const save = useSaveShop();
  const [typed, setTyped] = useState<Typed>();
  const value: Typed = typed ?? shop ?? NOTHING;
  const set = (patch: Partial<Typed>) => setTyped({ ...value, ...patch });
  const stale = save.error instanceof ApiFailure && save.error.code === "stale";
  return (
    <form
      noValidate
      aria-label="Shop"
      className="flex flex-col gap-3 border border-rule bg-panel p-4"
      onSubmit={(e) => {
        e.preventDefault();
        if (!shop) return;
        save.mutate(
          {
            ...value,
            hourlyRate: value.hourlyRate ?? Number.NaN,
            taxPercent: value.taxPercent ?? Number.NaN,
            baseVersion: shop.version,
          },
          { onSuccess: () => setTyped(undefined) },
        );
      }}
    >
      <h2 className="text-xl">Name and prices</h2>
      {(error ?? plainError(save.error)) && (
        <Notice tone="stop" live>
          {error?.message ?? plainError(save.error)}
          {stale && shop && (
            <p>
              Now: {shop.name}, {shop.hourlyRate} {shop.currency} an hour, tax {shop.taxPercent} %.
            </p>
          )}
        </Notice>
      )}
      {save.isSuccess && typed === undefined && (
        <Notice tone="clear" live>
          Saved. New estimates use it.
        </Notice>
      )}
      <fieldset disabled={!mayChange} className="grid gap-3 sm:grid-cols-3">
        <legend className="sr-only">Name, currency, hourly rate, tax, terms</legend>
        <TextField
          label="Name of the shop"
          value={value.name}
          onChange={(e) => set({ name: e.target.value })}
          error={fieldError(save.error, "name")}
        />
        <TextField
          label="Currency"
          value={value.currency}
          onChange={(e) => set({ currency: e.target.value.toUpperCase() })}
          error={fieldError(save.error, "currency")}
        />
        <NumberField
          label="Hourly rate, without tax"
          decimals={2}
          value={value.hourlyRate}
          onChange={(hourlyRate) => set({ hourlyRate })}
          error={fieldError(save.error, "hourlyRate")}
        />
        <NumberField
          label="Tax, %"
          hint="What new estimates begin with"
          decimals={1}
          value={value.taxPercent}
          onChange={(taxPercent) => set({ taxPercent })}
          error={fieldError(save.error, "taxPercent")}
        />
        <div className="sm:col-span-3">
          <TextArea
            label="Warranty terms"
            hint="On every estimate; the customer agrees to them."
            value={value.terms}
            onChange={(e) => set({ terms: e.target.value })}
            error={fieldError(save.error, "terms")}
          />
        </div>
        <label className="flex min-h-11 items-center gap-3 sm:col-span-3">
          <input
            type="checkbox"
            className="size-6"
            checked={value.ownOdds}
            onChange={(e) => set({ ownOdds: e.target.checked })}
          />
          The odds move with our own proved jobs: a fault that comes more often here than the library says is likelier
          from the start
        </label>
      </fieldset>
      {mayChange && (
        <div className="flex justify-end gap-3">
          {typed && (
            <Button tone="quiet" onClick={() => setTyped(undefined)}>
              Undo
            </Button>
          )}
          <Button type="submit" disabled={save.isPending || typed === undefined || !shop}>
            Save
          </Button>
        </div>
      )}
    </form>
  );
}
