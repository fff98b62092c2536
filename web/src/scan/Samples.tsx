import { useState } from "react";
import { urlOf } from "../api/client.ts";
import { useSamples } from "../api/queries.ts";
import { useJob } from "../job/job-context.tsx";
import { Button, Notice } from "../shared/controls.tsx";

/** Made-up logs to try the import with: every way of writing, each with what is to be seen. @param onTry - absent: only to download */
export function Samples({ onTry }: { onTry: ((file: File) => void) | undefined }) {
  const { job } = useJob();
  const [open, setOpen] = useState(false);
  const [busy, setBusy] = useState<string | undefined>();
  const [problem, setProblem] = useState<string | undefined>();
  const { data, error } = useSamples(job.id, open);
  const address = (name: string) => urlOf("sample", { jobId: job.id, name });
  const attempt = async (id: string, fileName: string) => {
    setBusy(id);
    setProblem(undefined);
    try {
      const answer = await fetch(address(id));
      if (!answer.ok) throw new Error(`The server answered ${answer.status}.`);
      onTry?.(new File([await answer.blob()], fileName));
    } catch (e) {
      setProblem(e instanceof Error ? e.message : String(e));
    } finally {
      setBusy(undefined);
    }
  };
  return (
    <details
      className="border border-rule bg-panel px-3 py-2"
      open={open}
      onToggle={(e) => setOpen((e.target as HTMLDetailsElement).open)}
    >
      <summary className="label min-h-8 cursor-pointer">No log at hand? Sample logs of this unit</summary>
      <p className="text-quiet">
        Made up by the simulated vehicle. Tried here, a sample is stored in this job like any log: take it back on the
        timeline afterwards.
      </p>
      {(error ?? problem) && (
        <Notice tone="stop" title="The sample could not be loaded" live>
          {problem ?? error?.message}
        </Notice>
      )}
      {open && !data && !error && <p role="status">Loading the samples …</p>}
      <ul aria-label="Sample logs">
        {data?.map((s) => (
          <li key={s.id} className="flex flex-wrap items-center justify-between gap-x-3 border-t border-rule py-1">
            <span className="min-w-0 flex-1">
              <span className="label">{s.written}</span>
              <span className="block text-sm text-quiet">{s.shows}</span>
            </span>
            <span className="flex gap-2">
              <a
                href={address(s.id)}
                download={s.fileName}
                className="label inline-flex min-h-11 items-center px-2 underline"
                aria-label={`Download ${s.fileName}`}
              >
                Download
              </a>
              {onTry && !s.fileName.endsWith(".json") && (
                <Button
                  disabled={busy !== undefined}
                  onClick={() => void attempt(s.id, s.fileName)}
                  aria-label={`Try ${s.fileName}`}
                >
                  {busy === s.id ? "Making it …" : "Try it"}
                </Button>
              )}
            </span>
          </li>
        ))}
      </ul>
    </details>
  );
}
