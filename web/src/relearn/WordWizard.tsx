import type { EntryBodies } from "@gearsense/core/job";
import {
  advanceRelearn,
  beginRelearn,
  codeOfWord,
  judgeCondition,
  type RelearnState,
  wantedOf,
} from "@gearsense/core/relearn";
import type { DrivenProcedure, LiveCondition, Unit } from "@gearsense/core/unit";
import { useState } from "react";
import { useJob } from "../job/job-context.tsx";
import { useAddEntry } from "../offline/useAddEntry.ts";
import { Cautions, HoldsOpen, useHolds } from "../shared/Caution.tsx";
import { Button, Notice, SelectField, TextArea } from "../shared/controls.tsx";
import { NumberField } from "../shared/NumberField.tsx";
import { useDraft } from "../shared/useDraft.ts";
import { CAUTIONS_OF } from "./cautions.ts";
import { Ended } from "./Ended.tsx";
import { LearnedFields, type TypedValues, typedOnly } from "./LearnedFields.tsx";
import { StageBox } from "./StageBox.tsx";
import { Windows } from "./Windows.tsx";

interface Draft {
  readonly state: RelearnState | null;
  /** what was read on the other tool, or seen, by channel */
  readonly read: TypedValues;
  readonly before: TypedValues;
  readonly after: TypedValues;
  readonly note: string;
}

/** Where one value alone will do it is ticked, not typed. @returns that value */
function onlyOne({ channel, between, is }: LiveCondition): number | undefined {
  const [word] = is ?? [];
  if (word !== undefined) return codeOfWord(channel, word);
  return between && between[0] === between[1] ? between[0] : undefined;
}

/** The same procedure for a person with another tool: conditions ticked, stages confirmed, values typed. Kept on this device. */
export function WordWizard({ procedure, onLeave }: { procedure: DrivenProcedure; onLeave: () => void }) {
  const { job } = useJob();
  const add = useAddEntry(job.id);
  const holds = useHolds(CAUTIONS_OF[procedure.machine.kind]);
  const { machine } = procedure;
  const unit = job.unit as Unit;
  const draft = useDraft<Draft>(`${job.id}.relearn.${procedure.id}`, {
    state: null,
    read: {},
    before: {},
    after: {},
    note: "",
  });
  const { state, read, before, after, note } = draft.value;
  const [result, setResult] = useState("");
  const tell = (event: Parameters<typeof advanceRelearn>[3]) => {
    if (state) draft.set({ state: advanceRelearn(machine, unit, state, event) });
  };
  const stage = state ? machine.stages[state.stage] : undefined;
  const seen = new Map(Object.entries(typedOnly(read)));
  const open = machine.preconditions.filter((c) => judgeCondition(c, seen).holds !== true);
  const take = (c: LiveCondition, v: number | null) => draft.set({ read: { ...read, [c.channel]: v } });
  const values = (which: "before" | "after", title: string) => (
    <LearnedFields title={title} values={draft.value[which]} onChange={(v) => draft.set({ [which]: v })} />
  );
  const store = async () => {
    if (!state?.end) return;
    // values that were typed may stand at their limit though the other tool said that all is well
    const checked =
      state.end.outcome === "done"
        ? advanceRelearn(
            machine,
            unit,
            { ...state, end: undefined, stage: machine.stages.length - 1 },
            { kind: "learned", values: typedOnly(after) },
          ).end
        : state.end;
    if (!checked) return;
    const { outcome, say, next, ends, code, element } = checked;
    const body: EntryBodies["relearn"] = {
      ...{ procedureId: procedure.id, title: procedure.name, how: "typed", outcome, say, next, ends, code, element },
      stage: stage?.say ?? "",
      before: typedOnly(before),
      after: typedOnly(after),
      note,
    };
    await add.mutateAsync({ kind: "relearn", body, baseSeq: 0 });
    draft.clear();
    onLeave();
  };
  return (
    <section aria-label={procedure.name} className="flex flex-col gap-4 border border-rule bg-panel p-4">
      <h2 className="text-xl">{procedure.name}, with another tool</h2>
      <p className="text-quiet">
        The maker’s own instructions come first. What is confirmed here stands on the timeline as typed.
      </p>
      {add.error && (
        <Notice tone="stop" live>
          {add.error.message}
        </Notice>
      )}
      {!state && (
        <>
          <Cautions names={CAUTIONS_OF[machine.kind]} holds={holds} />
          {values("before", "Learned values before anything is touched")}
          <fieldset>
            <legend className="label">Before you start: what the other tool shows</legend>
            <div className="grid gap-3 sm:grid-cols-3">
              {machine.preconditions
                .filter((c) => onlyOne(c) === undefined)
                .map((c) => {
                  const { holds } = judgeCondition(c, seen);
                  return (
                    <NumberField
                      key={c.say}
                      label={c.say}
                      hint={c.between ? `${c.between[0]} to ${c.between[1]}` : ""}
                      error={holds === false ? "Not yet" : undefined}
                      value={read[c.channel] ?? null}
                      onChange={(v) => take(c, v)}
                    />
                  );
                })}
            </div>
            {machine.preconditions.map((c) => {
              const only = onlyOne(c);
              return only === undefined ? null : (
                <label key={c.say} className="flex min-h-11 items-center gap-3 border-b border-rule">
                  <input
                    type="checkbox"
                    className="size-6 shrink-0"
                    checked={read[c.channel] === only}
                    onChange={(e) => take(c, e.target.checked ? only : null)}
                  />
                  {c.say}
                </label>
              );
            })}
          </fieldset>
        </>
      )}
      {state && !state.end && stage && (
        <>
          <StageBox machine={machine} index={state.stage}>
            {(stage.until ?? []).map((c) => (
              <p key={c.say} className="text-quiet">
                Next when: {c.say}
              </p>
            ))}
          </StageBox>
          <Notice tone="caution" title="Must hold throughout">
            {machine.guards.map((g) => g.say).join("; ")}.
          </Notice>
          {stage.windows && (
            <Windows
              windows={stage.windows}
              drive={state.drive}
              onMet={(i) =>
                draft.set({
                  state: {
                    ...state,
                    drive: { ...state.drive, filled: state.drive.filled.map((n, k) => (k === i ? n + 1 : n)) },
                  },
                })
              }
            />
          )}
          <div className="flex flex-wrap items-end gap-3 border-t border-rule pt-3">
            <SelectField label="It stopped with" value={result} onChange={(e) => setResult(e.target.value)}>
              <option value="">choose …</option>
              {machine.results
                .filter((r) => r.ends !== "done")
                .map((r) => (
                  <option key={r.code} value={r.code}>
                    {r.say}
                  </option>
                ))}
            </SelectField>
            <Button disabled={result === ""} onClick={() => tell({ kind: "told", code: Number(result) })}>
              It stopped with this
            </Button>
          </div>
        </>
      )}
      {state?.end && (
        <>
          <Ended name={procedure.name} end={state.end} />
          {values("after", "Learned values now")}
          <TextArea label="Note" value={note} onChange={(e) => draft.set({ note: e.target.value })} />
        </>
      )}
      <div className="flex flex-wrap items-center justify-end gap-3">
        {!state && <HoldsOpen holds={holds} />}
        {!state && open.length > 0 && (
          <p role="status" className="text-quiet">
            {open.length} of {machine.preconditions.length} conditions not met yet.
          </p>
        )}
        <Button
          tone="quiet"
          onClick={() => {
            if (state && !state.end) tell({ kind: "given-up", why: "It was ended by hand" });
            else {
              draft.clear();
              onLeave();
            }
          }}
        >
          {state && !state.end ? "Stop" : "Back"}
        </Button>
        {!state && (
          <Button
            tone="primary"
            data-primary
            disabled={open.length > 0 || holds.open.length > 0}
            onClick={() => draft.set({ state: beginRelearn(machine, 0) })}
          >
            Start
          </Button>
        )}
        {state && !state.end && (
          <Button tone="primary" data-primary onClick={() => tell({ kind: "confirmed" })}>
            {wantedOf(machine, state) === "start" ? "Started, next" : "Done, next"}
          </Button>
        )}
        {state?.end && (
          <Button tone="primary" data-primary disabled={add.isPending} onClick={() => void store()}>
            Save
          </Button>
        )}
      </div>
    </section>
  );
}
