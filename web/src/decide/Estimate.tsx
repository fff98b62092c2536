import { chosenParts } from "@gearsense/core/bench";
import type { EntryBodies, EstimateLine } from "@gearsense/core/job";
import { decidedOption, withBench, withExtras } from "@gearsense/core/report";
import { sumsOf } from "@gearsense/core/suspect";
import { Plus, Trash2 } from "lucide-react";
import { urlOf } from "../api/client.ts";
import { usePlan, useSession } from "../api/queries.ts";
import { FormStatus } from "../job/FormStatus.tsx";
import { useJob } from "../job/job-context.tsx";
import { useEntryForm } from "../job/useEntryForm.ts";
import { useSettings } from "../settings/settings.tsx";
import { Button, Notice, TextArea } from "../shared/controls.tsx";
import { useMoney } from "../shared/useMoney.ts";

type Body = EntryBodies["estimate"];
interface LineText {
  readonly kind: EstimateLine["kind"];
  readonly what: string;
  readonly quantity: string;
  readonly each: string;
}
interface FormText {
  readonly lines: readonly LineText[];
  readonly tax: string;
  readonly days: string;
  readonly lead: string;
  readonly note: string;
}

const KINDS: readonly (readonly [EstimateLine["kind"], string])[] = [
  ["labour", "Labour, h"],
  ["part", "Part"],
  ["fluid", "Fluid, l"],
  ["filter", "Filter"],
  ["other", "Other"],
];
const VALID_DAYS = 30;
const round = (n: number) => String(Math.round(n * 100) / 100);
const number = (t: string) => (t.trim() === "" ? Number.NaN : Number(t.replace(",", ".")));
const textOf = (l: EstimateLine): LineText => ({ ...l, quantity: round(l.quantity), each: round(l.each) });

/** The estimate of the option that was decided: its lines as the shop offers them, which are its price everywhere. */
export function Estimate({
  optionId,
  title,
  computed,
}: {
  optionId: string;
  title: string;
  computed: readonly EstimateLine[];
}) {
  const { job, state, mayEdit } = useJob();
  const { system } = useSettings();
  const money = useMoney();
  const { data: session } = useSession();
  const stored = state.estimates.find((e) => e.body.optionId === optionId);
  const form = useEntryForm<FormText>("estimate", `estimate.${optionId}`, stored, {
    lines: (stored?.body.lines ?? computed).map(textOf),
    tax: round(stored?.body.taxPercent ?? session?.shop.taxPercent ?? 0),
    days: String(stored?.body.validDays ?? VALID_DAYS),
    lead: stored?.body.leadDays == null ? "" : String(stored.body.leadDays),
    note: stored?.body.note ?? "",
  });
  const { lines, tax, days, lead, note } = form.value;
  const parsed = lines.map((l) => ({ ...l, quantity: number(l.quantity), each: number(l.each) }));
  const readable = parsed.filter((l) => Number.isFinite(l.quantity) && Number.isFinite(l.each));
  const { labourCost, partsCost } = sumsOf(readable);
  const net = labourCost + partsCost;
  const withTax = net * (1 + (number(tax) || 0) / 100);
  const change = (at: number, patch: Partial<LineText>) =>
    form.set({ lines: lines.map((l, i) => (i === at ? { ...l, ...patch } : l)) });
  const store = () => {
    const body: Body = {
      optionId,
      title,
      lines: parsed,
      taxPercent: number(tax),
      validDays: number(days),
      leadDays: lead.trim() === "" ? null : number(lead),
      note,
    };
    return form.submit(body);
  };
  // what is taken while it is open belongs into the price
  const { data: plan } = usePlan(job.id, optionId === (state.decision && decidedOption(state.decision.body)));
  const taken = plan?.extras.filter((e) => e.taken) ?? [];
  const rate = parsed.find((l) => l.kind === "labour")?.each ?? session?.shop.hourlyRate ?? 0;
  const chosen = chosenParts(state);
  const together = withBench(withExtras(parsed as EstimateLine[], taken, rate), chosen);
  const missing = plan !== undefined && JSON.stringify(together) !== JSON.stringify(parsed);
  const field = "min-h-11 w-full border border-field bg-panel px-2";
  return (
    <section aria-label="Estimate" className="flex flex-col gap-3 border border-rule bg-panel p-4">
      <div className="flex flex-wrap items-end justify-between gap-3">
        <div>
          <h2 className="text-xl">Estimate</h2>
          <p className="text-quiet">{title}. What stands here is its price in Suspects, Decide and the report.</p>
        </div>
        <div className="flex flex-wrap gap-2">
          <a
            href={urlOf("estimatePdf", { jobId: job.id }, { system })}
            className="label inline-flex min-h-11 items-center border border-field bg-panel px-3"
            download
          >
            Estimate for the customer
          </a>
          {mayEdit && (
            <Button onClick={() => void store()} disabled={form.pending}>
              Store the estimate
            </Button>
          )}
        </div>
      </div>
      <FormStatus form={form} />
      {mayEdit && missing && (
        <Notice
          tone="plain"
          title={
            [
              taken.length > 0 ? `Taken while it is open: ${taken.map((e) => e.title).join(", ")}` : "",
              chosen.length > 0 ? `Chosen on the bench: ${chosen.map((c) => c.name).join(", ")}` : "",
            ]
              .filter(Boolean)
              .join(". ") || "Nothing is taken any more while it is open, and nothing chosen on the bench"
          }
          actions={<Button onClick={() => form.set({ lines: together.map(textOf) })}>Bring the lines up to it</Button>}
        />
      )}
      <fieldset disabled={!mayEdit} className="min-w-0">
        <legend className="sr-only">Lines</legend>
        <div className="relative overflow-x-auto">
          <table className="w-full min-w-[560px] text-left">
            <thead>
              <tr className="border-b border-ink">
                <th className="w-32 py-1">Kind</th>
                <th>What for</th>
                <th className="w-24">Quantity</th>
                <th className="w-28">Each</th>
                <th className="w-28 text-right">Amount</th>
                <th className="w-12">
                  <span className="sr-only">Remove</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {lines.map((l, i) => {
                const amount = (parsed[i]?.quantity ?? 0) * (parsed[i]?.each ?? 0);
                const wrong =
                  form.errors[`lines.${i}.what`] ??
                  form.errors[`lines.${i}.quantity`] ??
                  form.errors[`lines.${i}.each`];
                return (
                  // biome-ignore lint/suspicious/noArrayIndexKey: lines have no identity beyond their place
                  <tr key={i} className="border-b border-rule align-top">
                    <td className="py-1 pr-1">
                      <select
                        aria-label={`Kind of line ${i + 1}`}
                        className={field}
                        value={l.kind}
                        onChange={(e) => change(i, { kind: e.target.value as EstimateLine["kind"] })}
                      >
                        {KINDS.map(([value, label]) => (
                          <option key={value} value={value}>
                            {label}
                          </option>
                        ))}
                      </select>
                    </td>
                    <td className="py-1 pr-1">
                      <input
                        aria-label={`What line ${i + 1} is for`}
                        className={field}
                        value={l.what}
                        onChange={(e) => change(i, { what: e.target.value })}
                      />
                      {wrong && (
                        <p role="alert" className="text-sm font-semibold text-stop">
                          {wrong}
                        </p>
                      )}
                    </td>
                    {(
                      [
                        ["quantity", "Quantity"],
                        ["each", "Price"],
                      ] as const
                    ).map(([key, label]) => (
                      <td key={key} className="py-1 pr-1">
                        <input
                          aria-label={`${label} of line ${i + 1}`}
                          inputMode="decimal"
                          className={field}
                          value={l[key]}
                          onChange={(e) => change(i, { [key]: e.target.value })}
                        />
                      </td>
                    ))}
                    <td className="figures py-3 text-right">{Number.isFinite(amount) ? money(amount) : "?"}</td>
                    <td className="py-1 text-right">
                      {mayEdit && (
                        <Button
                          tone="quiet"
                          aria-label={`Remove line ${i + 1}`}
                          onClick={() => form.set({ lines: lines.filter((_, k) => k !== i) })}
                        >
                          <Trash2 aria-hidden="true" className="size-5" />
                        </Button>
                      )}
                    </td>
                  </tr>
                );
              })}
            </tbody>
          </table>
        </div>
        {mayEdit && (
          <Button
            className="mt-2"
            onClick={() => form.set({ lines: [...lines, { kind: "other", what: "", quantity: "1", each: "0" }] })}
          >
            <Plus aria-hidden="true" className="size-5" /> Add a line
          </Button>
        )}
      </fieldset>
      {form.errors.lines && (
        <p role="alert" className="font-semibold text-stop">
          {form.errors.lines}
        </p>
      )}
      <div className="flex flex-wrap items-end justify-between gap-4">
        <div className="flex flex-wrap gap-3">
          {(
            [
              ["Tax, %", tax, (v: string) => form.set({ tax: v }), form.errors.taxPercent],
              ["Valid for, days", days, (v: string) => form.set({ days: v }), form.errors.validDays],
              ["Part in, days", lead, (v: string) => form.set({ lead: v }), form.errors.leadDays],
            ] as const
          ).map(([label, value, set, error]) => (
            <label key={label} className="flex w-32 flex-col">
              <span className="label">{label}</span>
              <input
                className={field}
                inputMode="decimal"
                disabled={!mayEdit}
                value={value}
                onChange={(e) => set(e.target.value)}
              />
              {error && (
                <span role="alert" className="text-sm font-semibold text-stop">
                  {error}
                </span>
              )}
            </label>
          ))}
        </div>
        <dl className="figures grid grid-cols-[auto_auto] gap-x-4 text-right">
          <dt>Labour</dt>
          <dd>{money(labourCost)}</dd>
          <dt>Parts and material</dt>
          <dd>{money(partsCost)}</dd>
          <dt className="label">Price</dt>
          <dd className="label" data-testid="estimate-net">
            {money(net)}
          </dd>
          <dt>With tax</dt>
          <dd>{money(withTax)}</dd>
        </dl>
      </div>
      <TextArea
        label="Note to the customer"
        disabled={!mayEdit}
        value={note}
        onChange={(e) => form.set({ note: e.target.value })}
      />
    </section>
  );
}
