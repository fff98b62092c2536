import type { JobView } from "@gearsense/contract";
import type { Entry } from "@gearsense/core/job";
import { useQueryClient } from "@tanstack/react-query";
import { format } from "date-fns";
import { keys, useSession, useWaiting } from "../api/queries.ts";
import { entrySummary } from "../job/entry-text.ts";
import { useSettings } from "../settings/settings.tsx";
import { Button, Notice } from "../shared/controls.tsx";
import { Modal } from "../shared/Modal.tsx";
import type { WaitingEntry } from "./entry-queue.ts";
import { asEntry } from "./overlay.ts";
import { useDecideWaiting } from "./useWaiting.ts";

/** What waits on this device, whose it is, and what met something else meanwhile: for its writer to decide. */
export function WaitingList({ onClose }: { onClose: () => void }) {
  const me = useSession().data?.account.id;
  const { data: entries = [] } = useWaiting();
  return (
    <Modal open onClose={onClose} title="Waiting on this device" wide>
      {entries.length === 0 && <p>Nothing waits any more.</p>}
      <ul className="flex flex-col gap-3">
        {entries.map((e) => (
          <li key={e.id}>
            <Waiting entry={e} mine={e.by === me} />
          </li>
        ))}
      </ul>
    </Modal>
  );
}

function Waiting({ entry, mine }: { entry: WaitingEntry; mine: boolean }) {
  const { system } = useSettings();
  const { again, drop } = useDecideWaiting();
  // of a job that was shown here
  const number = useQueryClient().getQueryData<JobView>(keys.job(entry.jobId))?.number;
  const { theirs, refused } = entry;
  const whose = `${mine ? "You" : entry.name}, ${format(new Date(entry.at), "d MMM HH:mm")}${number ? `, job ${number}` : ""}: `;
  const what = whose + entrySummary(asEntry(entry), system);
  if (theirs !== undefined)
    return (
      <Notice
        tone="caution"
        title="Somebody changed this meanwhile"
        actions={
          mine && (
            <>
              <Button onClick={() => void drop(entry)}>{theirs === "taken back" ? "Drop mine" : "Take theirs"}</Button>
              <Button onClick={() => void again(entry)}>Store mine instead</Button>
            </>
          )
        }
      >
        <p>{what}</p>
        <p>{theirs === "taken back" ? "What it changes was taken back." : theirsSaid(theirs, system)}</p>
      </Notice>
    );
  if (refused !== undefined)
    return (
      <Notice
        tone="stop"
        title="Not accepted"
        actions={
          mine && (
            <>
              <Button onClick={() => void again(entry)}>Send again</Button>
              <Button onClick={() => void drop(entry)}>Drop</Button>
            </>
          )
        }
      >
        <p>{what}</p>
        <p>{refused}</p>
      </Notice>
    );
  return (
    <div className="flex flex-wrap items-center justify-between gap-2 border-b border-rule pb-2">
      <p className="min-w-0 flex-1">
        {what}
        {!mine && <span className="block text-quiet">Goes up when {entry.name} signs in on this device.</span>}
      </p>
      {mine && <Button onClick={() => void drop(entry)}>Drop</Button>}
    </div>
  );
}

const theirsSaid = (theirs: Entry, system: "metric" | "imperial") =>
  `${theirs.author}, ${format(new Date(theirs.at), "d MMM HH:mm")}: ${entrySummary(theirs, system)}`;
