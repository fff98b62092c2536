import { useRef, useState } from "react";
import { call, upload, urlOf } from "../api/client.ts";
import { Button, Notice, Progress, TextField } from "../shared/controls.tsx";

/** A file of this device, or a copy that lies on the server. */
export type RestoreFrom = { readonly name: string } & ({ readonly file: File } | { readonly copy: string });

type Phase =
  | { readonly at: "asked" }
  | { readonly at: "sending"; readonly share: number }
  | { readonly at: "restoring" }
  | { readonly at: "done"; readonly madeAt: string; readonly shops: readonly string[] };

/** Asks once more, restores, and says so: afterwards nobody is signed in. */
export function Restore({ from, shop, onClose }: { from: RestoreFrom; shop: string; onClose: () => void }) {
  const [confirm, setConfirm] = useState("");
  const [phase, setPhase] = useState<Phase>({ at: "asked" });
  const [problem, setProblem] = useState<string>();
  const stop = useRef<AbortController | undefined>(undefined);
  const restore = async () => {
    setProblem(undefined);
    stop.current = new AbortController();
    const { signal } = stop.current;
    try {
      let done: { madeAt: string; shops: string[] };
      if ("copy" in from) {
        setPhase({ at: "restoring" });
        done = await call("restoreCopy", { params: { name: from.copy }, body: { confirm }, signal });
      } else {
        setPhase({ at: "sending", share: 0 });
        const told = (share: number) => setPhase(share < 1 ? { at: "sending", share } : { at: "restoring" });
        done = (await upload(urlOf("restore", {}, { confirm }), from.file, told, signal)) as typeof done;
      }
      setPhase({ at: "done", ...done });
    } catch (error) {
      setPhase({ at: "asked" });
      setProblem(signal.aborted ? undefined : error instanceof Error ? error.message : String(error));
    }
  };
  if (phase.at === "done")
    return (
      <Notice
        tone="clear"
        live
        title="Restored"
        actions={
          <Button tone="primary" onClick={() => window.location.assign("/")}>
            Sign in
          </Button>
        }
      >
        {phase.shops.join(", ")}, as it was on {phase.madeAt.slice(0, 10)} at {phase.madeAt.slice(11, 16)} UTC.
        Everybody signs in anew, with the passwords of that day.
      </Notice>
    );
  if (phase.at !== "asked")
    return (
      <Progress
        label={phase.at === "sending" ? "Sending the backup" : "Restoring and checking every part"}
        share={phase.at === "sending" ? phase.share : undefined}
        onCancel={() => stop.current?.abort()}
      />
    );
  return (
    <form
      noValidate
      aria-label={`Restore ${from.name}`}
      className="flex flex-col gap-3 border-l-4 border-stop bg-stop-wash p-3"
      onSubmit={(e) => {
        e.preventDefault();
        void restore();
      }}
    >
      <p>
        Everything in this shop is replaced by {from.name}: jobs, logs, photos, people. What was entered since then is
        gone. Make a copy first.
      </p>
      {problem && (
        <Notice tone="stop" live>
          {problem}
        </Notice>
      )}
      <TextField
        label={`To go on, type the name of the shop: ${shop}`}
        value={confirm}
        autoComplete="off"
        onChange={(e) => setConfirm(e.target.value)}
      />
      <div className="flex flex-wrap justify-end gap-3">
        <Button tone="quiet" onClick={onClose}>
          Cancel
        </Button>
        <Button tone="danger" type="submit" disabled={confirm.trim() !== shop}>
          Restore
        </Button>
      </div>
    </form>
  );
}
