import { codeKey, type EntryBodies } from "@gearsense/core/job";
import { type CodeReport, CodeTextError, readCodes, suggestTriage } from "@gearsense/core/observe";
import { FileUp } from "lucide-react";
import { useState } from "react";
import { ApiFailure } from "../api/client.ts";
import { useJob } from "../job/job-context.tsx";
import { useAddEntry } from "../offline/useAddEntry.ts";
import { Button, Notice, TextArea } from "../shared/controls.tsx";
import { FileButton } from "../shared/FileButton.tsx";
import { Modal } from "../shared/Modal.tsx";
import { useDraft } from "../shared/useDraft.ts";
import { FreezeFrame } from "./FreezeFrame.tsx";

type Code = EntryBodies["code"];
const MOST_BYTES = 2 << 20;
const WORDS = {
  complaint: "Belongs to the complaint",
  "earlier-work": "Caused by earlier work",
  unclear: "Unclear",
} as const;

interface Row extends Code {
  readonly take: boolean;
}

/** Codes out of a pasted report or a file: shown with a triage and its reason, corrected, then stored. */
export function CodesFromText({ onClose }: { onClose: () => void }) {
  const { job, state } = useJob();
  const draft = useDraft<{ text: string }>(`${job.id}.codes-text`, { text: "" });
  const [report, setReport] = useState<CodeReport | undefined>();
  const [rows, setRows] = useState<readonly Row[]>([]);
  const [problem, setProblem] = useState<string | undefined>();
  const add = useAddEntry(job.id);
  const [storing, setStoring] = useState(false);

  const read = (text: string) => {
    setProblem(undefined);
    try {
      const made = readCodes(text);
      setReport(made);
      const seen = new Map<string, Row>();
      for (const c of made.codes) {
        const { triage, reason } = suggestTriage(job.unit, state, c.code, c.module);
        seen.set(codeKey(c), {
          take: true,
          code: c.code,
          text: c.text || job.unit.codes.find((u) => u.code === c.code)?.text || "",
          module: c.module,
          triage,
          reason,
          ...(c.status ? { status: c.status } : {}),
          ...(Object.keys(c.freezeFrame).length > 0 ? { freezeFrame: c.freezeFrame } : {}),
        });
      }
      setRows([...seen.values()]);
    } catch (error) {
      if (!(error instanceof CodeTextError)) throw error;
      setReport(undefined);
      setProblem(error.message);
    }
  };
  const takeFile = async (file: File) => {
    if (file.size > MOST_BYTES) {
      setProblem(`${file.name} is larger than a code report can be.`);
      return;
    }
    const text = await file.text();
    if (text.includes("\u0000")) {
      setProblem(`${file.name} isn’t text. Save the report as text or CSV, or paste it.`);
      return;
    }
    draft.set({ text });
    read(text);
  };
  const store = async () => {
    setStoring(true);
    setProblem(undefined);
    const left = [...rows];
    try {
      while (left.length > 0) {
        const [{ take, ...body }] = left as [Row];
        if (take) {
          const baseSeq = state.codes.find((c) => codeKey(c.body) === codeKey(body))?.seq ?? 0;
          await add.mutateAsync({ kind: "code", body, baseSeq });
        }
        left.shift();
        setRows([...left]);
      }
      draft.clear();
      onClose();
    } catch (error) {
      if (!(error instanceof ApiFailure)) throw error;
      setProblem(`${left.length} of the codes are not stored yet: ${error.message}`);
    } finally {
      setStoring(false);
    }
  };
  const change = (i: number, patch: Partial<Row>) => setRows(rows.map((r, k) => (k === i ? { ...r, ...patch } : r)));
  const taken = rows.filter((r) => r.take).length;
  const twice = (r: Row) => rows.filter((x) => x.code === r.code).length > 1;
  return (
    <Modal open onClose={onClose} title="Codes from a scan tool's report" wide>
      <div className="flex flex-col gap-3">
        <TextArea
          label="The report, pasted"
          hint="Any layout: headings of modules, lists, or a table. Every line is accounted for."
          rows={5}
          value={draft.value.text}
          onChange={(e) => draft.set({ text: e.target.value })}
        />
        <div className="flex flex-wrap gap-2">
          <Button tone="primary" onClick={() => read(draft.value.text)}>
            Read the codes
          </Button>
          <FileButton label="Code report file" accept=".txt,.csv,text/*" onFile={(f) => void takeFile(f)}>
            <FileUp aria-hidden="true" className="size-5" />
            From a text or CSV file
          </FileButton>
        </div>
        {problem && (
          <Notice tone="stop" title="Not read" live>
            {problem}
          </Notice>
        )}
        {report && (
          <>
            <p>
              {report.codes.length} {report.codes.length === 1 ? "code" : "codes"} in{" "}
              {report.modules.length > 0 ? report.modules.join(", ") : "no named module"}
              {report.unread.length > 0 &&
                `; ${report.unread.length} ${report.unread.length === 1 ? "line was" : "lines were"} not read`}
              .
            </p>
            {report.unread.length > 0 && (
              <details>
                <summary className="min-h-11 content-center">Lines not read</summary>
                <ul className="text-sm text-quiet">
                  {report.unread.map((u) => (
                    <li key={u.line}>
                      line {u.line}: {u.text}
                    </li>
                  ))}
                </ul>
              </details>
            )}
            <ul className="flex flex-col">
              {rows.map((r, i) => (
                <li
                  key={codeKey(r)}
                  className="grid items-start gap-x-3 border-b border-rule py-2 sm:grid-cols-[auto_90px_1fr_200px]"
                >
                  <label className="flex min-h-11 items-center">
                    <input
                      type="checkbox"
                      className="size-5"
                      aria-label={`Take ${r.code}${twice(r) ? ` of ${r.module}` : ""}`}
                      checked={r.take}
                      onChange={(e) => change(i, { take: e.target.checked })}
                    />
                  </label>
                  <span className="figures content-center text-lg sm:min-h-11">{r.code}</span>
                  <span>
                    {r.text} <span className="text-quiet">{r.module}</span>
                    {r.status && <span className="text-quiet"> · {r.status}</span>}
                    <span className="block text-sm text-quiet">{r.reason}</span>
                    <FreezeFrame frame={r.freezeFrame} />
                  </span>
                  <select
                    aria-label={`Triage of ${r.code}${twice(r) ? ` of ${r.module}` : ""}`}
                    value={r.triage}
                    onChange={(e) => change(i, { triage: e.target.value as Code["triage"] })}
                    className="min-h-11 border border-field bg-panel px-2"
                  >
                    {Object.entries(WORDS).map(([k, w]) => (
                      <option key={k} value={k}>
                        {w}
                      </option>
                    ))}
                  </select>
                </li>
              ))}
            </ul>
            <div className="flex justify-end">
              <Button tone="primary" disabled={storing || taken === 0} onClick={() => void store()}>
                {storing ? "Storing …" : `Store ${taken} ${taken === 1 ? "code" : "codes"}`}
              </Button>
            </div>
          </>
        )}
      </div>
    </Modal>
  );
}
