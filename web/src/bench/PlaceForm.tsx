import type { BenchView } from "@gearsense/contract";
import { type BenchPlace, coilsSay, dualClutchSays, dualClutchStates, pressureSays } from "@gearsense/core/bench";
import type { BenchChosen, EntryBodies } from "@gearsense/core/job";
import type { Instrument } from "@gearsense/core/knowledge";
import type { Knowledge } from "@gearsense/core/suspect";
import type { Unit } from "@gearsense/core/unit";
import { FileUp, Trash2 } from "lucide-react";
import { useState } from "react";
import { toast } from "sonner";
import { FormStatus } from "../job/FormStatus.tsx";
import { useJob } from "../job/job-context.tsx";
import { useEntryForm } from "../job/useEntryForm.ts";
import { useSettings } from "../settings/settings.tsx";
import { Cautions, HoldsOpen, useHolds } from "../shared/Caution.tsx";
import { Button, Choice, Notice, TextArea } from "../shared/controls.tsx";
import { FileButton } from "../shared/FileButton.tsx";
import { PlainTable } from "../shared/PlainTable.tsx";
import { type BenchForm, formOf, inOwnUnit, spreadLines, typedBody } from "./bench-form.ts";
import { ChoicePanel, FitPanel, OpenedPanel } from "./ConverterPanels.tsx";
import { EndPlayPanel, PackPanel } from "./PackPanel.tsx";
import { PartsMap } from "./PartsMap.tsx";
import { ReadingRow } from "./ReadingRow.tsx";
import { ScopePanel, type ScopeValues } from "./ScopePanel.tsx";

type Body = EntryBodies["bench"];

/** One place of the bench: what is read and seen there, and what it comes to as it is typed. */
export function PlaceForm({
  place,
  knowledge,
  bench,
}: {
  place: BenchPlace;
  knowledge: Knowledge;
  bench: BenchView | undefined;
}) {
  const { state, mayEdit } = useJob();
  const { system } = useSettings();
  const stored = state.bench.find((e) => e.body.place === place.id);
  const { instruments } = knowledge;
  const form = useEntryForm<BenchForm>("bench", `bench:${place.id}`, stored, formOf(stored?.body, instruments, system));
  const { value, set } = form;
  const holds = useHolds(stored ? [] : place.cautions);
  const { body, problems, questions } = typedBody(place, value, instruments);
  const open = Object.keys(problems).length + Object.keys(questions).length;
  const [lost, setLost] = useState<readonly string[]>([]);
  const spread = (text: string, from?: string) => {
    const { readings, lost: left } = spreadLines(place, value.readings, text, from);
    set({ readings });
    setLost(left);
  };
  const choose = (part: BenchChosen) => {
    set({ chosen: [...value.chosen.filter((c) => c.id !== part.id), part] });
    toast.success(`${part.name} is chosen; store the place to keep it.`);
  };
  const earlierOf = (id: string) => {
    for (const b of bench?.earlier ?? []) {
      const v = b.places.find((p) => p.place === place.id)?.values.find((x) => x.id === id);
      if (v) return { job: b.jobNumber, value: v };
    }
    return undefined;
  };
  return (
    <form
      noValidate
      className="flex flex-col gap-4"
      onSubmit={(e) => {
        e.preventDefault();
        if (open === 0) void form.submit(body);
      }}
    >
      <Cautions names={place.cautions} {...(stored ? {} : { holds })} />
      <p className="text-lg">{place.how}</p>
      <FormStatus form={form} />
      {place.kind === "electrical" && (
        <ScopePanel mayEdit={mayEdit} onValues={(v) => set({ readings: withScope(value.readings, v) })} />
      )}
      {place.measures.length > 0 && (
        <section aria-label="Readings">
          <Readings
            place={place}
            form={value}
            body={body}
            problems={problems}
            questions={questions}
            instruments={instruments}
            disabled={!mayEdit}
            earlierOf={earlierOf}
            onPaste={spread}
            set={set}
          />
          {mayEdit && (
            <div className="flex flex-wrap items-center gap-3 pt-2">
              <FileButton
                label="Readings from a file"
                accept=".csv,.txt"
                onFile={(f) => void f.text().then((t) => spread(t))}
              >
                <FileUp aria-hidden="true" className="size-5" />
                Readings from a file
              </FileButton>
              <p className="text-sm text-quiet">
                One line a field, or the name of the field, a semicolon and its readings. Enter takes the next reading.
              </p>
            </div>
          )}
          {lost.length > 0 && (
            <Notice tone="caution" title="Lines that went nowhere" live>
              {lost.slice(0, 5).join(" · ")}
              {lost.length > 5 ? ` and ${lost.length - 5} more` : ""}. Begin a line with the name of its field, or leave
              bare numbers.
            </Notice>
          )}
        </section>
      )}
      {place.looks.length > 0 && (
        <section aria-label="Looked at" className="grid gap-3 lg:grid-cols-2">
          {place.looks.map((l) => (
            <div key={l.id}>
              <Choice
                label={l.name}
                value={value.looks[l.id]}
                options={l.options.map((o) => ({ value: o.id, label: o.label }))}
                disabled={!mayEdit}
                onChange={(v) => set({ looks: { ...value.looks, [l.id]: v } })}
              />
            </div>
          ))}
        </section>
      )}
      <Panel
        place={place}
        body={body}
        form={value}
        knowledge={knowledge}
        bench={bench}
        mayEdit={mayEdit}
        problem={problems.curve ?? form.errors.curve}
        onChoose={choose}
        onCurve={(curve) => set({ curve })}
      />
      {value.chosen.length > 0 && (
        <ul aria-label="Chosen parts" className="border border-rule bg-panel">
          {value.chosen.map((c) => (
            <li key={c.id} className="flex items-center justify-between gap-3 border-b border-rule px-3 py-1">
              <span>
                <span className="label">
                  {c.quantity} × {c.name}
                </span>{" "}
                <span className="text-quiet">{c.why}</span>
              </span>
              {mayEdit && (
                <Button
                  tone="quiet"
                  aria-label={`Remove ${c.name}`}
                  onClick={() => set({ chosen: value.chosen.filter((x) => x.id !== c.id) })}
                >
                  <Trash2 aria-hidden="true" className="size-5" />
                </Button>
              )}
            </li>
          ))}
        </ul>
      )}
      <TextArea label="Note" value={value.note} disabled={!mayEdit} onChange={(e) => set({ note: e.target.value })} />
      {mayEdit && (
        <div className="flex flex-wrap items-center justify-end gap-3">
          <HoldsOpen holds={holds} />
          {open > 0 && (
            <p className="font-semibold text-stop">
              {open === 1 ? "One field is" : `${open} fields are`} to be mended first.
            </p>
          )}
          <Button
            tone="primary"
            type="submit"
            data-primary
            disabled={form.pending || open > 0 || holds.open.length > 0}
          >
            Store
          </Button>
        </div>
      )}
    </form>
  );
}

const withScope = (readings: BenchForm["readings"], v: ScopeValues) => ({
  ...readings,
  ...Object.fromEntries(Object.entries(v).map(([id, x]) => [id, String(x)])),
});

function Readings({
  place,
  form,
  body,
  problems,
  questions,
  instruments,
  disabled,
  earlierOf,
  onPaste,
  set,
}: {
  place: BenchPlace;
  form: BenchForm;
  body: Body;
  problems: Readonly<Record<string, string>>;
  questions: ReturnType<typeof typedBody>["questions"];
  instruments: readonly Instrument[];
  disabled: boolean;
  earlierOf: (id: string) => { job: string; value: Body["values"][number] } | undefined;
  onPaste: (text: string, from: string) => void;
  set: (patch: Partial<BenchForm>) => void;
}) {
  return place.measures.map((m) => (
    <ReadingRow
      key={m.id}
      measure={m}
      form={form}
      value={body.values.find((v) => v.id === m.id)}
      earlier={earlierOf(m.id)}
      problem={problems[m.id]}
      question={questions[m.id]}
      instruments={instruments}
      disabled={disabled}
      onText={(text) =>
        set({ readings: { ...form.readings, [m.id]: text }, asRead: { ...form.asRead, [m.id]: false } })
      }
      onPaste={(text) => onPaste(text, m.id)}
      onInstrument={(id) => set({ instruments: { ...form.instruments, [m.id]: id } })}
      onTemperature={(c) => set({ temperaturesC: { ...form.temperaturesC, [m.id]: c } })}
      onOwnUnit={() => set({ readings: { ...form.readings, [m.id]: inOwnUnit(place, form, m.id) } })}
      onAsRead={() => set({ asRead: { ...form.asRead, [m.id]: true } })}
    />
  ));
}

function Panel({
  place,
  body,
  form,
  knowledge,
  bench,
  mayEdit,
  problem,
  onChoose,
  onCurve,
}: {
  place: BenchPlace;
  body: Body;
  form: BenchForm;
  knowledge: Knowledge;
  bench: BenchView | undefined;
  mayEdit: boolean;
  problem: string | undefined;
  onChoose: (part: BenchChosen) => void;
  onCurve: (text: string) => void;
}) {
  const { job } = useJob();
  const unit = job.unit as Unit;
  switch (place.kind) {
    case "pack":
    case "pack-in":
      return <PackPanel elementId={place.about ?? ""} body={body} onChoose={onChoose} mayEdit={mayEdit} />;
    case "end-play":
      return <EndPlayPanel about={place.about ?? ""} body={body} onChoose={onChoose} mayEdit={mayEdit} />;
    case "converter-fit":
      return <FitPanel body={body} />;
    case "converter-choice":
      return (
        <ChoicePanel
          body={body}
          curveText={form.curve}
          onCurve={onCurve}
          problem={problem}
          bench={bench}
          mayEdit={mayEdit}
        />
      );
    case "converter-open":
      return <OpenedPanel knowledge={knowledge.bench} body={body} />;
    case "valve-body":
      return <PartsMap unit={unit} values={body.values} />;
    case "electrical":
      return <Says list={coilsSay(unit, body.values)} />;
    case "pressure":
      return <Says list={pressureSays(body.values)} />;
    case "dual-clutch":
      return <DualPanel unit={unit} body={body} />;
    default:
      return null;
  }
}

function Says({ list }: { list: readonly string[] }) {
  return list.map((s) => (
    <Notice key={s} tone="caution">
      {s}
    </Notice>
  ));
}

function DualPanel({ unit, body }: { unit: Unit; body: Body }) {
  const states = dualClutchStates(unit, body.values);
  const { system, show } = useSettings();
  if (states.length === 0) return null;
  return (
    <div className="flex flex-col gap-2">
      <PlainTable
        caption="Dual clutches"
        columns={["Clutch", "Lost of its height", "Touch point from it", "Learned before"]}
        figures={[1, 2, 3]}
        rows={states.map((s) => [
          s.clutch,
          show(s.lostMm, "length", system === "imperial" ? 3 : 2),
          s.touchKpa === undefined ? "–" : show(s.touchKpa, "pressure"),
          s.learnedKpa === undefined ? "–" : show(s.learnedKpa, "pressure"),
        ])}
      />
      <Says list={dualClutchSays(unit, body.values)} />
    </div>
  );
}
