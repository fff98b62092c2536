import { MAX_LOG_BYTES } from "@gearsense/core/log";
import clsx from "clsx";
import { FileUp } from "lucide-react";
import { type DragEvent, useRef, useState } from "react";
import { useWork } from "../api/queries.ts";
import { useJob } from "../job/job-context.tsx";
import { Button, Notice, Progress } from "../shared/controls.tsx";
import { DefinitionStep } from "./DefinitionStep.tsx";
import { MappingStep } from "./MappingStep.tsx";
import type { Import } from "./useImport.ts";

const MB = 1 << 20;
const DRIVES = ["cold", "hot", "with the owner", "under load", "stall test"];

/** Drop a log, see how it was understood, correct it, analyse it. */
export function ImportPanel({ work, title, disabled }: { work: Import; title: string; disabled: boolean }) {
  const { phase, problem } = work;
  return (
    <section aria-label="Import a log" className="flex flex-col gap-3">
      {phase.at === "idle" && (
        <DropZone title={title} onFile={(f, label) => void work.take(f, label)} disabled={disabled} />
      )}
      {phase.at === "sending" && (
        <Progress label="Storing the file unchanged" share={phase.share} onCancel={work.cancel} />
      )}
      {phase.at === "reading" && <Progress label="Reading the rows" share={phase.share} onCancel={work.cancel} />}
      {phase.at === "analysing" && <Analysing logId={phase.logId} onCancel={work.endAnalysis} />}
      {problem && (
        <Notice
          tone="stop"
          title={
            phase.at === "mapping" || phase.at === "definition" ? "Not usable like this" : "The log was not imported"
          }
          live
        >
          {problem}
        </Notice>
      )}
      {phase.at === "definition" && <DefinitionStep why={phase.why} fileName={phase.fileName} work={work} />}
      {phase.at === "mapping" && <MappingStep phase={phase} work={work} />}
    </section>
  );
}

/** How far the analysis is: behind what it waits, or what is being done. */
function Analysing({ logId, onCancel }: { logId: string; onCancel: () => void }) {
  const { job } = useJob();
  const work = useWork(job.id, true).data?.work.find((w) => w.logId === logId);
  const ahead = work?.ahead ?? 0;
  const words =
    work?.state === "waiting"
      ? ahead > 0
        ? `waiting, ${ahead} before it`
        : "waiting its turn"
      : (work?.stage ?? undefined);
  return (
    <Progress
      label={words ? `Analysing the drive: ${words}` : "Analysing the drive"}
      share={undefined}
      onCancel={onCancel}
    />
  );
}

function DropZone({
  title,
  onFile,
  disabled,
}: {
  title: string;
  onFile: (f: File, label: string) => void;
  disabled: boolean;
}) {
  const input = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  const [label, setLabel] = useState("");
  const take = (files: FileList | null) => {
    const [file] = files ?? [];
    if (file && !disabled) onFile(file, label);
  };
  const onDrop = (e: DragEvent) => {
    e.preventDefault();
    setOver(false);
    take(e.dataTransfer.files);
  };
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: dropping is an extra; the button beside it does the same by keyboard
    <div
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={onDrop}
      className={clsx(
        "flex flex-wrap items-center justify-between gap-4 rounded-sm border-2 border-dashed p-4",
        over ? "border-action bg-action-wash" : "border-field bg-panel",
      )}
    >
      <div>
        <h2 className="text-xl">{title}</h2>
        <p className="text-quiet">
          A CSV or text export, a bus capture, plain or as gzip or zip, up to {MAX_LOG_BYTES / MB} MB, 10 s or longer.
          It is stored unchanged before it is read.
        </p>
        <label className="mt-1 inline-flex items-center gap-2">
          <span className="label text-sm">What drive</span>
          <select
            className="min-h-11 border border-field bg-panel px-2"
            value={label}
            onChange={(e) => setLabel(e.target.value)}
            disabled={disabled}
          >
            <option value="">not said</option>
            {DRIVES.map((d) => (
              <option key={d} value={d}>
                {d}
              </option>
            ))}
          </select>
        </label>
      </div>
      <input
        ref={input}
        type="file"
        aria-label="Scan log file"
        className="sr-only"
        tabIndex={-1}
        disabled={disabled}
        onChange={(e) => {
          take(e.target.files);
          e.target.value = "";
        }}
      />
      <Button tone="primary" disabled={disabled} onClick={() => input.current?.click()} data-primary>
        <FileUp aria-hidden="true" className="size-5" />
        Choose a log
      </Button>
    </div>
  );
}
