import { useSettings } from "../settings/settings.tsx";
import { Button, Notice } from "../shared/controls.tsx";
import { entrySummary } from "./entry-text.ts";
import type { EntryForm } from "./useEntryForm.ts";

/** What stands between a form and its store: a refusal, somebody else's version, or a kept draft. */
export function FormStatus<B>({ form }: { form: EntryForm<B> }) {
  const { system } = useSettings();
  if (form.conflict) {
    const theirs =
      form.conflict === "taken back"
        ? "The entry was taken back."
        : `${form.conflict.author} stored: ${entrySummary(form.conflict, system)}`;
    return (
      <Notice
        tone="caution"
        title="Somebody changed this while you were typing"
        live
        actions={
          <>
            <Button onClick={form.takeTheirs}>Take theirs</Button>
            <Button onClick={() => void form.storeMine()}>Store mine instead</Button>
          </>
        }
      >
        {theirs} What you typed is still in the form and is not stored.
      </Notice>
    );
  }
  if (form.failure) {
    return (
      <Notice tone="stop" title="Not stored" live>
        {form.failure}
      </Notice>
    );
  }
  if (form.drafted) return <p className="text-sm text-quiet">Kept on this device, not stored yet.</p>;
  return null;
}
