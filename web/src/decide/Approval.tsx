import type { EntryBodies } from "@gearsense/core/job";
import { approvalNow, SAME_PRICE } from "@gearsense/core/report";
import { useState } from "react";
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

/** What is offered, as the customer sees it. */
interface Offer {
  readonly optionId: string;
  readonly title: string;
  readonly net: number;
  readonly withTax: number;
}

/** The customer's word on the estimate: signed on the screen, or told by telephone. */
export function Approval({ offer, stored }: { offer: Offer; stored: boolean }) {
  const { job, state, mayEdit } = useJob();
  const { data: session } = useSession();
  const money = useMoney();
  const [asking, setAsking] = useState(false);
  const now = approvalNow(state);
  const terms = session?.shop.terms ?? "";
  const form = useEntryForm<Pick<Body, "by" | "how" | "signature" | "deposit" | "note">>(
    "approval",
    "approval",
    state.approval,
    { by: job.vehicle.owner, how: "signed", signature: [], deposit: null, note: "" },
  );
  const { value, set, errors } = form;
  const again = now?.moved !== undefined;
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
      {!now && !asking && <p className="text-quiet">Not asked yet: nothing is done without the customer’s word.</p>}
      {mayEdit && !asking && (!now || again) && (
        <div className="flex flex-wrap items-center justify-end gap-3">
          {!stored && <p className="text-quiet">Store the estimate first: its lines are what is agreed to.</p>}
          <Button onClick={() => setAsking(true)} disabled={!stored}>
            Ask the customer …
          </Button>
        </div>
      )}
      {mayEdit && asking && (
        <form
          noValidate
          aria-label="What is agreed"
          className="flex flex-col gap-3 border-t border-rule pt-3"
          onSubmit={(e) => {
            e.preventDefault();
            void form
              .submit({ ...value, ...offer, signature: value.how === "signed" ? value.signature : [], terms })
              .then((done) => done && setAsking(false));
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
            <Button tone="quiet" onClick={() => setAsking(false)}>
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

/** Is what is offered what the lines of the stored estimate come to? */
export const isStored = (net: number, storedNet: number | undefined): boolean =>
  storedNet !== undefined && Math.abs(net - storedNet) <= SAME_PRICE;
