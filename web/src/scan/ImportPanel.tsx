import { CHANNELS, channelSpec, MAX_LOG_BYTES, type MappingGuess, MEASURE_UNITS } from "@gearsense/core/log";
import clsx from "clsx";
import { FileUp } from "lucide-react";
import { type DragEvent, useRef, useState } from "react";
import { Button, Notice, Progress } from "../shared/controls.tsx";
import type { Import, ImportPhase } from "./useImport.ts";

const MB = 1 << 20;

/** Drop a log, see how it was understood, correct it, analyse it. */
export function ImportPanel({ work, title, disabled }: { work: Import; title: string; disabled: boolean }) {
  const { phase, problem } = work;
  return (
    <section aria-label="Import a log" className="flex flex-col gap-3">
      {phase.at === "idle" && <DropZone title={title} onFile={(f) => void work.take(f)} disabled={disabled} />}
      {phase.at === "sending" && (
        <Progress label="Storing the file unchanged" share={phase.share} onCancel={work.cancel} />
      )}
      {phase.at === "reading" && <Progress label="Reading the rows" share={phase.share} onCancel={work.cancel} />}
      {phase.at === "analysing" && <Progress label="Analysing the drive" share={undefined} />}
      {problem && (
        <Notice tone="stop" title={phase.at === "mapping" ? "Not usable like this" : "The log was not imported"} live>
          {problem}
        </Notice>
      )}
      {phase.at === "mapping" && <Mapping phase={phase} work={work} />}
    </section>
  );
}

function DropZone({ title, onFile, disabled }: { title: string; onFile: (f: File) => void; disabled: boolean }) {
  const input = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  const take = (files: FileList | null) => {
    const [file] = files ?? [];
    if (file && !disabled) onFile(file);
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
          A CSV or text export, up to {MAX_LOG_BYTES / MB} MB, 10 s or longer. It is stored unchanged before it is read.
        </p>
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

const sureness = (c: number) => (c >= 0.85 ? "sure" : c >= 0.6 ? "likely" : c > 0 ? "check this" : "not used");

function Mapping({ phase, work }: { phase: Extract<ImportPhase, { at: "mapping" }>; work: Import }) {
  const { opened, mapping } = phase;
  const change = (i: number, patch: Partial<MappingGuess>) =>
    work.setMapping(mapping.map((m, k) => (k === i ? { ...m, ...patch, confidence: 1, reason: "set by hand" } : m)));
  const extra = mapping
    .map((m) => m.channel)
    .filter((c): c is string => c !== null && !CHANNELS.some((k) => k.id === c));
  const d = opened.dialect;
  const delimiter = { ",": "comma", ";": "semicolon", "\t": "tab", "|": "bar" }[d.delimiter];
  return (
    <div className="flex flex-col gap-3">
      <div className="flex items-end justify-between gap-4">
        <div>
          <h2 className="text-xl">{phase.fileName}: what each column is</h2>
          <p className="text-quiet">
            {opened.rows} rows, {delimiter}-separated{d.decimalComma ? ", decimal comma" : ""}, {opened.encoding},
            header in line {d.headerLine}
            {d.unitLine ? `, units in line ${d.unitLine}` : ""}. Correct what is wrong.
          </p>
        </div>
        <div className="flex shrink-0 gap-2">
          <Button onClick={work.cancel}>Not now</Button>
          <Button tone="primary" disabled={!work.report} onClick={() => void work.analyse()} data-primary>
            Analyse the drive
          </Button>
        </div>
      </div>
      {work.report && <Report report={work.report} />}
      <div className="max-h-[max(300px,calc(100vh-345px))] overflow-auto border border-rule bg-panel">
        <table className="w-full text-left">
          <thead className="sticky top-0 bg-panel">
            <tr className="border-b border-ink">
              <th className="p-2">Column of the file</th>
              <th className="p-2">Channel</th>
              <th className="p-2">Unit</th>
              <th className="p-2">Guess</th>
              <th className="p-2">First values</th>
            </tr>
          </thead>
          <tbody>
            {mapping.map((m, i) => {
              const quantity = m.channel ? channelSpec(m.channel)?.quantity : undefined;
              const units = MEASURE_UNITS.filter((u) => u.quantity === quantity);
              return (
                <tr
                  key={m.column}
                  className={clsx(
                    "border-b border-rule",
                    m.channel !== null && m.confidence < 0.6 && "bg-caution-wash",
                  )}
                >
                  <td className="p-2">
                    <span className="label">{m.header}</span>
                    {m.unitText && <span className="text-quiet"> [{m.unitText}]</span>}
                  </td>
                  <td className="p-1">
                    <select
                      aria-label={`Channel of ${m.header}`}
                      value={m.channel ?? ""}
                      onChange={(e) => change(i, { channel: e.target.value || null, unit: null })}
                      className="min-h-11 w-full border border-field bg-panel px-2"
                    >
                      <option value="">not used</option>
                      {CHANNELS.map((c) => (
                        <option key={c.id} value={c.id}>
                          {c.label}
                        </option>
                      ))}
                      {extra.map((c) => (
                        <option key={c} value={c}>
                          {channelSpec(c)?.label ?? c}
                        </option>
                      ))}
                    </select>
                  </td>
                  <td className="p-1">
                    {units.length > 0 && (
                      <select
                        aria-label={`Unit of ${m.header}`}
                        value={m.unit ?? ""}
                        onChange={(e) => change(i, { unit: e.target.value || null })}
                        className="min-h-11 border border-field bg-panel px-2"
                      >
                        <option value="">as it is</option>
                        {units.map((u) => (
                          <option key={u.label} value={u.label}>
                            {u.label}
                          </option>
                        ))}
                      </select>
                    )}
                  </td>
                  <td className="p-2">
                    <span className="label">{sureness(m.confidence)}</span>{" "}
                    {m.confidence > 0 && <span className="figures text-quiet">{Math.round(m.confidence * 100)} %</span>}
                    <span className="ml-1 text-sm text-quiet">{m.reason}</span>
                  </td>
                  <td className="figures p-2 text-quiet">{m.samples.join(" · ")}</td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
    </div>
  );
}

/** What was made of the file: nothing is dropped silently. */
export function Report({ report }: { report: NonNullable<Import["report"]> }) {
  const lines = (list: readonly number[]) => `line${list.length === 1 ? "" : "s"} ${list.join(", ")}`;
  return (
    <div className="border border-rule bg-panel p-3">
      <p className="figures text-lg">
        {report.rows} rows · {report.durationS.toFixed(0)} s · {report.rateHz.toFixed(1)} rows a second ·{" "}
        {report.gaps.length} gaps · {report.rejectCount} rejected · {report.emptyCells} empty cells ·{" "}
        {report.invalidCells} impossible values
      </p>
      {(report.rejects.length > 0 || report.repairs.length > 0 || report.gaps.length > 0) && (
        <details className="mt-1" open={report.rejectCount < 6}>
          <summary className="label cursor-pointer">Places</summary>
          <ul className="list-disc pl-5 text-sm">
            {report.repairs.map((r) => (
              <li key={r.what}>
                {r.what}: {r.count} ({lines(r.lines)}
                {r.count > r.lines.length ? " …" : ""})
              </li>
            ))}
            {report.gaps.slice(0, 20).map((g) => (
              <li key={g.line}>
                gap of {(g.endS - g.startS).toFixed(1)} s before line {g.line}
              </li>
            ))}
            {report.rejects.slice(0, 20).map((r) => (
              <li key={r.line}>
                line {r.line} {r.reason}: rejected
              </li>
            ))}
            {report.rejectCount > 20 && <li>and {report.rejectCount - 20} more rejected</li>}
          </ul>
        </details>
      )}
    </div>
  );
}
