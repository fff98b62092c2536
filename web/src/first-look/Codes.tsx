import { codeKey, type EntryBodies } from "@gearsense/core/job";
import { suggestTriage } from "@gearsense/core/observe";
import { ClipboardPaste } from "lucide-react";
import { useState } from "react";
import { FormStatus } from "../job/FormStatus.tsx";
import { useJob } from "../job/job-context.tsx";
import { useEntryForm } from "../job/useEntryForm.ts";
import { Button, Choice, TextArea, TextField } from "../shared/controls.tsx";
import { CodesFromText } from "./CodesFromText.tsx";
import { FreezeFrame } from "./FreezeFrame.tsx";
import { frameAsText, frameFromText } from "./freeze-frame.ts";

type Code = EntryBodies["code"];

const TRIAGE = [
  { value: "complaint", label: "Belongs to the complaint" },
  { value: "earlier-work", label: "Caused by earlier work" },
  { value: "unclear", label: "Unclear" },
] as const;

const EMPTY: Code = { code: "", text: "", module: "Transmission", triage: "unclear", reason: "" };

/** Codes with their triage. Codes read and not stored are evidence too. */
export function Codes() {
  const { job, state, mayEdit } = useJob();
  const standing = (v: Code) => {
    const key = codeKey({ ...v, code: v.code.trim().toUpperCase() });
    return state.codes.find((c) => codeKey(c.body) === key);
  };
  const form = useEntryForm<Code>("code", "code.new", (v) => standing(v), EMPTY);
  const current = standing(form.value);
  const read = useEntryForm<EntryBodies["codes-read"]>("codes-read", "codes-read", state.codesRead, {
    allModules: true,
    note: "",
  });
  const v = form.value;
  const [pasting, setPasting] = useState(false);
  const [frameText, setFrameText] = useState<string | undefined>();
  const code = v.code.trim().toUpperCase();
  const suggestion = /^[PCBU][0-9A-F]{4}$/.test(code) ? suggestTriage(job.unit, state, code, v.module) : undefined;
  const known = job.unit.codes.find((c) => c.code === v.code.trim().toUpperCase());
  return (
    <section aria-label="Codes" className="flex flex-col gap-3 border border-rule bg-panel p-4">
      <div className="flex items-end justify-between gap-3">
        <div>
          <h2 className="text-xl">Codes</h2>
          <p className="text-quiet">
            {state.codesRead
              ? "All codes were read: those not listed count as absent."
              : "Say when all codes were read: then the absent ones count as well."}
          </p>
        </div>
        {mayEdit && (
          <div className="flex flex-wrap justify-end gap-2">
            <Button onClick={() => setPasting(true)}>
              <ClipboardPaste aria-hidden="true" className="size-5" />
              From a scan tool's report
            </Button>
            {!state.codesRead && (
              <Button onClick={() => void read.submit()} disabled={read.pending}>
                All codes are read
              </Button>
            )}
          </div>
        )}
      </div>
      <FormStatus form={read} />
      {pasting && <CodesFromText onClose={() => setPasting(false)} />}
      {state.codes.length > 0 && (
        <table className="w-full text-left">
          <thead>
            <tr className="border-b border-rule">
              <th>Code</th>
              <th>Meaning</th>
              <th>Module</th>
              <th>Triage</th>
              <th>Reason</th>
            </tr>
          </thead>
          <tbody>
            {state.codes.map((c) => (
              <tr key={c.id} className="border-b border-rule">
                <td className="figures py-2 pr-3 text-lg">{c.body.code}</td>
                <td className="pr-3">
                  {c.body.text}
                  {c.body.status && <span className="text-quiet"> · {c.body.status}</span>}
                  <FreezeFrame frame={c.body.freezeFrame} />
                </td>
                <td className="pr-3">{c.body.module}</td>
                <td className="label pr-3">{TRIAGE.find((t) => t.value === c.body.triage)?.label}</td>
                <td className="text-quiet">{c.body.reason}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {mayEdit && (
        <form
          aria-label="New code"
          noValidate
          className="flex flex-col gap-3"
          onSubmit={(e) => {
            e.preventDefault();
            void form
              .submit({ ...v, code, text: v.text || known?.text || "" })
              .then((stored) => stored && setFrameText(undefined));
          }}
        >
          <FormStatus form={form} />
          <div className="grid gap-3 sm:grid-cols-[130px_1fr_170px]">
            <TextField
              label="Code"
              placeholder="P0730"
              value={v.code}
              onChange={(e) => form.set({ code: e.target.value })}
              error={form.errors.code}
              autoCapitalize="characters"
            />
            <TextField
              label="Meaning"
              placeholder={known?.text ?? ""}
              value={v.text}
              onChange={(e) => form.set({ text: e.target.value })}
            />
            <TextField label="Module" value={v.module} onChange={(e) => form.set({ module: e.target.value })} />
          </div>
          {suggestion && (
            <p className="flex flex-wrap items-center gap-3 text-quiet">
              <span>
                Offered: {TRIAGE.find((t) => t.value === suggestion.triage)?.label.toLowerCase()}, because{" "}
                {suggestion.reason}.
              </span>
              <Button onClick={() => form.set({ triage: suggestion.triage, reason: suggestion.reason })}>
                Take it
              </Button>
            </p>
          )}
          <TextArea
            label="Freeze frame, a value a line"
            placeholder={"Engine speed: 2140 rpm\nFluid temperature: 96 °C"}
            rows={2}
            value={frameText ?? frameAsText(v.freezeFrame)}
            onChange={(e) => {
              setFrameText(e.target.value);
              form.set({ freezeFrame: frameFromText(e.target.value) });
            }}
          />
          <div className="flex flex-wrap items-end gap-x-6 gap-y-3">
            <Choice label="Triage" value={v.triage} options={TRIAGE} onChange={(triage) => form.set({ triage })} />
            <TextField
              className="min-w-52 flex-1"
              label="Reason"
              value={v.reason}
              onChange={(e) => form.set({ reason: e.target.value })}
            />
            <Button type="submit" disabled={form.pending}>
              {current ? "Change the code" : "Add the code"}
            </Button>
          </div>
        </form>
      )}
    </section>
  );
}
