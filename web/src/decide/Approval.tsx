import type { EntryBodies } from "@gearsense/core/job";
import { agreedPrice, approvalNow, decidedOption } from "@gearsense/core/report";
import { useSession } from "../api/queries.ts";
import { FormStatus } from "../job/FormStatus.tsx";
import { useJob } from "../job/job-context.tsx";
import { useEntryForm } from "../job/useEntryForm.ts";
import { Button, Choice, Notice, TextArea, TextField } from "../shared/controls.tsx";
import { NumberField } from "../shared/NumberField.tsx";
import { Signed } from "../shared/Signed.tsx";
import { useMoney } from "../shared/useMoney.ts";
import { SignatureField } from "./SignatureField.tsx";

type Body = EntryBodies["approval"];

/** The customer's word on the estimate: signed on the screen, or told by telephone. */
export function Approval() {
  const { job, state, mayEdit } = useJob();
  const { data: session } = useSession();
  const money = useMoney();
  const now = approvalNow(state);
  const { decision } = state;
  // the customer agrees to what is stored, not to what is being typed
  const price = agreedPrice(state);
  const offer =
    decision && price?.withTax !== undefined
      ? { optionId: decidedOption(decision.body), title: decision.body.title, net: price.net, withTax: price.withTax }
      : undefined;
  const terms = session?.shop.terms ?? "";
  // what is being asked outlives a reload, and the estimate being worked out anew
  const form = useEntryForm<Pick<Body, "by" | "how" | "signature" | "deposit" | "note"> & { asking: boolean }>(
    "approval",
    "approval",
    state.approval,
    { by: job.vehicle.owner, how: "signed", signature: [], deposit: null, note: "", asking: false },
  );
  const { value, set, errors } = form;
  const { asking, ...typed } = value;
  const again = now?.moved !== undefined;
  if (!decision) return null;
  return (
    <section aria-label="Customer’s approval" className="flex flex-col gap-3 border border-rule bg-panel p-4">
      <h2 className="text-xl">Customer’s approval</h2>
      {now && (
        <Notice
          tone={again ? "caution" : "clear"}
          title={
            again
              ? now.moved?.what === "option"
                ? "Another option was chosen since: ask again"
                : `The price has moved to ${money(now.moved?.net ?? 0)}: ask again`
              : `${now.approval.body.by} ${now.approval.body.how === "signed" ? "signed" : "agreed by word"}`
          }
        >
          {now.approval.at.slice(0, 10)}: {now.approval.body.title}, {money(now.approval.body.net)}, with tax{" "}
          {money(now.approval.body.withTax)}.
          {now.approval.body.deposit !== null && ` Paid beforehand: ${money(now.approval.body.deposit)}.`}{" "}
          {now.approval.body.note}
          {now.approval.body.signature.length > 0 && <Signed strokes={now.approval.body.signature} />}
        </Notice>
      )}
      {!now && !(asking && offer) && (
        <p className="text-quiet">Not asked yet: nothing is done without the customer’s word.</p>
      )}
      {mayEdit && (!asking || !offer) && (!now || again) && (
        <div className="flex flex-wrap items-center justify-end gap-3">
          {!offer && <p className="text-quiet">Store the estimate first: its lines are what is agreed to.</p>}
          <Button onClick={() => set({ asking: true })} disabled={!offer}>
            Ask the customer …
          </Button>
        </div>
      )}
      {mayEdit && asking && offer && (
        <form
          noValidate
          aria-label="What is agreed"
          className="flex flex-col gap-3 border-t border-rule pt-3"
          onSubmit={(e) => {
            e.preventDefault();
            void form.submit({ ...typed, ...offer, signature: typed.how === "signed" ? typed.signature : [], terms });
          }}
        >
          <FormStatus form={form} />
          <p className="text-[17px]">
            {offer.title}: <span className="figures">{money(offer.net)}</span>, with tax{" "}
            <span className="figures">{money(offer.withTax)}</span>. An estimate, not a fixed price; we ask before it
            becomes more.
          </p>
          {terms && <p className="whitespace-pre-line">{terms}</p>}
          <Choice
            label="How"
            value={value.how}
            options={[
              { value: "signed", label: "Signs here" },
              { value: "told", label: "By telephone or word" },
            ]}
            onChange={(how) => set({ how })}
          />
          <TextField
            label="Name of the customer"
            value={value.by}
            onChange={(e) => set({ by: e.target.value })}
            error={errors.by}
          />
          {value.how === "signed" && (
            <SignatureField
              value={value.signature}
              onChange={(signature) => set({ signature })}
              error={errors.signature}
            />
          )}
          <NumberField
            label={`Paid beforehand, ${session?.shop.currency ?? ""}`}
            hint="Empty: nothing"
            decimals={2}
            value={value.deposit}
            onChange={(deposit) => set({ deposit })}
            error={errors.deposit}
          />
          <TextArea label="What was said besides" value={value.note} onChange={(e) => set({ note: e.target.value })} />
          <div className="flex flex-wrap justify-end gap-3">
            <Button tone="quiet" onClick={() => set({ asking: false })}>
              Not now
            </Button>
            <Button tone="primary" type="submit" disabled={form.pending}>
              Agreed
            </Button>
          </div>
        </form>
      )}
    </section>
  );
}
