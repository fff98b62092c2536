import type { Entry } from "@gearsense/core/job";
import { supersededIds } from "@gearsense/core/job";
import clsx from "clsx";
import { format } from "date-fns";
import { ChevronDown, ChevronUp, Undo2 } from "lucide-react";
import { Collapsible } from "radix-ui";
import { useState } from "react";
import { toast } from "sonner";
import { ApiFailure } from "../api/client.ts";
import { useSession, useWaiting } from "../api/queries.ts";
import { useShortcuts } from "../keys/shortcuts.tsx";
import { isWaiting, waitingIdOf } from "../offline/overlay.ts";
import { useAddEntry } from "../offline/useAddEntry.ts";
import { useDecideWaiting } from "../offline/useWaiting.ts";
import { useSettings } from "../settings/settings.tsx";
import { Button, TextField } from "../shared/controls.tsx";
import { Modal } from "../shared/Modal.tsx";
import { entrySummary } from "./entry-text.ts";
import { useJob } from "./job-context.tsx";

const SOURCES = { typed: "typed", file: "file", computed: "computed" } as const;

/** The append-only timeline, pulled up from the foot. An entry is taken back by a new one, never erased. */
export function Timeline() {
  const { system } = useSettings();
  const { job } = useJob();
  const { data: session } = useSession();
  const [open, setOpen] = useState(false);
  const [taking, setTaking] = useState<Entry | undefined>();
  const entries = job.entries as Entry[];
  const { retracted, replaced } = supersededIds(entries);
  const mayTakeBack = session?.account.role !== "viewer";
  const takeable = (e: Entry) =>
    mayTakeBack && e.kind !== "retraction" && !retracted.has(e.id) && !replaced.has(e.id) && e.seq > 1;
  const lastMine = entries.findLast(
    (e) => takeable(e) && e.author === session?.account.name && e.source !== "computed",
  );
  useShortcuts([
    { key: "t", label: "Timeline up or down", group: "Job", run: () => setOpen((o) => !o) },
    {
      key: "u",
      label: "Undo: take back your last entry",
      group: "Job",
      run: () => (lastMine ? setTaking(lastMine) : toast("You have no entry here to take back.")),
    },
  ]);
  const last = entries.at(-1);
  return (
    <Collapsible.Root open={open} onOpenChange={setOpen} asChild>
      <footer className="no-print border-t border-ink bg-panel">
        <Collapsible.Trigger className="flex min-h-11 w-full items-center gap-4 px-4 text-left">
          {open ? (
            <ChevronDown aria-hidden="true" className="size-5" />
          ) : (
            <ChevronUp aria-hidden="true" className="size-5" />
          )}
          <span className="label whitespace-nowrap">
            Timeline · {entries.length} {entries.length === 1 ? "entry" : "entries"}
          </span>
          {last && (
            <span className="truncate text-quiet">
              {format(new Date(last.at), "d MMM HH:mm")} {last.author}: {entrySummary(last, system)}
            </span>
          )}
        </Collapsible.Trigger>
        <Collapsible.Content asChild>
          <ol className="max-h-72 overflow-y-auto border-t border-rule px-4 py-1">
            {[...entries].reverse().map((e) => {
              const gone = retracted.has(e.id)
                ? "taken back"
                : replaced.has(e.id)
                  ? "replaced by a later entry"
                  : undefined;
              return (
                <li key={e.id} className="flex items-center gap-4 border-b border-rule py-1.5">
                  <span className="figures w-28 shrink-0 text-quiet">{format(new Date(e.at), "d MMM HH:mm")}</span>
                  <span className="label w-28 shrink-0 truncate">{e.author}</span>
                  <span className="w-20 shrink-0 text-sm text-quiet">{SOURCES[e.source]}</span>
                  <span className={clsx("min-w-0 flex-1", gone && "text-quiet line-through")}>
                    {entrySummary(e, system)}
                  </span>
                  {gone && <span className="shrink-0 text-sm text-quiet">{gone}</span>}
                  {isWaiting(e) && <span className="label shrink-0 text-sm text-action">waits on this device</span>}
                  {takeable(e) && (
                    <Button tone="quiet" onClick={() => setTaking(e)}>
                      <Undo2 aria-hidden="true" className="size-4" />
                      Take back
                    </Button>
                  )}
                </li>
              );
            })}
          </ol>
        </Collapsible.Content>
        {taking && <TakeBack entry={taking} onClose={() => setTaking(undefined)} />}
      </footer>
    </Collapsible.Root>
  );
}

function TakeBack({ entry, onClose }: { entry: Entry; onClose: () => void }) {
  const { system } = useSettings();
  const { job } = useJob();
  const add = useAddEntry(job.id);
  const { data: waiting = [] } = useWaiting();
  const { drop } = useDecideWaiting();
  const [reason, setReason] = useState("");
  const onDevice = waiting.find((w) => isWaiting(entry) && w.id === waitingIdOf(entry));
  const store = async () => {
    if (onDevice) {
      await drop(onDevice);
      toast("Dropped: it was only on this device.");
      onClose();
      return;
    }
    try {
      await add.mutateAsync({ kind: "retraction", body: { entryId: entry.id, reason }, baseSeq: 0 });
      toast("Taken back. The entry stays on the timeline, struck through.");
      onClose();
    } catch (error) {
      if (!(error instanceof ApiFailure)) throw error;
    }
  };
  return (
    <Modal open onClose={onClose} title="Take back this entry?" description={entrySummary(entry, system)}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void store();
        }}
        className="flex flex-col gap-3"
      >
        {onDevice ? (
          <p>It waits on this device and nobody else has seen it: it is dropped.</p>
        ) : (
          <TextField
            label="Reason"
            value={reason}
            onChange={(e) => setReason(e.target.value)}
            error={add.error?.message}
          />
        )}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Keep it</Button>
          <Button tone="danger" type="submit" disabled={add.isPending}>
            Take back
          </Button>
        </div>
      </form>
    </Modal>
  );
}
