import { learnedGauges, relearnAfter } from "@gearsense/core/relearn";
import type { DrivenProcedure, RelearnProcedure, Unit } from "@gearsense/core/unit";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { useCatalogue, useLearned, useRelearn, useSession } from "../api/queries.ts";
import { FormStatus } from "../job/FormStatus.tsx";
import { JobContext, useJob } from "../job/job-context.tsx";
import { useEntryForm } from "../job/useEntryForm.ts";
import { Logs } from "../scan/ScanStop.tsx";
import { useSettings } from "../settings/settings.tsx";
import { Button, EmptyState, Heading, Notice } from "../shared/controls.tsx";
import { BreakInPanel } from "./BreakInPanel.tsx";
import { Ended } from "./Ended.tsx";
import { Gauges } from "./Gauges.tsx";
import { LearnedFields, type TypedValues, typedOnly } from "./LearnedFields.tsx";
import { LinkRun, TakeLink } from "./LinkWizard.tsx";
import { WordWizard } from "./WordWizard.tsx";

const KIND = {
  stationary: "Standing, brake held",
  "drive-cycle": "On the road",
  "basic-setting": "Standing, brake held",
  "write-back": "Noted values written",
} as const;

/** What the control unit has learned, and how it learns anew; the first kilometres of a fresh build. */
export default function RelearnStop() {
  const inJob = useJob();
  const { job, state, mayEdit } = inJob;
  const { data: session } = useSession();
  const [search] = useSearchParams();
  const [drives, setDrives] = useState(search.has("log"));
  const { data: run } = useRelearn(job.id);
  const { data: learned, error } = useLearned(job.id, job.entries.at(-1)?.seq);
  const { data: catalogue } = useCatalogue(job.id);
  const [open, setOpen] = useState<{ id: string; way: "link" | "word" }>();
  const unit = job.unit as Unit;
  const parts = (state.decision?.body.repairId ?? "").split("+");
  const repairs = catalogue?.repairs.filter((r) => parts.includes(r.id)) ?? [];
  const workedAt = Math.max(0, ...state.work.map((w) => w.seq));
  const isDone = (p: RelearnProcedure) =>
    state.relearns.some((r) => r.seq > workedAt && r.body.procedureId === p.id && r.body.outcome === "done");
  const gauges = learnedGauges(unit, learned?.readings ?? [], learned?.resets ?? []);
  const newest: Record<string, number> = Object.fromEntries(
    gauges.flatMap((g) => (g.points.length > 0 ? [[g.adaptation.id, g.points.at(-1)?.value ?? 0]] : [])),
  );
  const due = relearnAfter(unit, repairs, state.fluid?.body.smell === "burnt", {
    learned: newest,
    shifts: learned?.shifts,
  });
  const isDue = (p: RelearnProcedure) =>
    due !== undefined && due.policy !== "leave" && due.procedures.some((d) => d.id === p.id);
  const relearned = due?.procedures.some(isDone) ?? false;
  const holdsLink = run && run.phase !== "over";
  // once the link is taken its form is done with: what comes after it is how it ended
  if (holdsLink && open) setOpen(undefined);
  const chosen = unit.relearn?.find((p) => p.id === (holdsLink ? run.procedureId : open?.id));
  const last = state.relearns.at(-1);
  // the same person may still write down how the first kilometres went
  const mayWrite = session?.account.role !== "viewer";
  const cards = (title: string, procedures: readonly RelearnProcedure[]) =>
    procedures.length > 0 && (
      <section aria-label={title} className="grid gap-3 lg:grid-cols-2">
        {procedures.map((p) => (
          <ProcedureCard
            key={p.id}
            procedure={p}
            due={isDone(p) ? "done" : isDue(p) && due && due.policy !== "leave" ? due.policy : undefined}
            onOpen={mayEdit ? (way) => setOpen({ id: p.id, way }) : undefined}
          />
        ))}
      </section>
    );
  return (
    <div>
      <Heading title="Relearn">
        {due === undefined
          ? "What the control unit has learned of clutches and shifts."
          : relearned
            ? "Relearned. Drive it, then prove the repair."
            : due.policy === "leave"
              ? "Leave it as it is: the shifts are within limits."
              : due.policy === "required"
                ? "Due after this repair: relearn before it is driven hard."
                : "Drive it first; relearn only if a shift stays outside its limit after ten like it."}
      </Heading>
      <div className="flex flex-col gap-4">
        {due && due.why !== "" && !relearned && <p>{due.why}</p>}
        {error && (
          <Notice tone="stop" live>
            {error.message}
          </Notice>
        )}
        {!chosen?.machine && last && (
          <Ended name={last.body.title} end={last.body}>
            {last.body.note && <p className="text-quiet">{last.body.note}</p>}
          </Ended>
        )}
        {holdsLink && chosen?.machine ? (
          <LinkRun key={run.id} run={run} procedure={chosen as DrivenProcedure} />
        ) : (
          chosen?.machine &&
          mayEdit &&
          (open?.way === "link" ? (
            <TakeLink
              key={chosen.id}
              procedure={chosen as DrivenProcedure}
              newest={newest}
              onLeave={() => setOpen(undefined)}
            />
          ) : (
            <WordWizard key={chosen.id} procedure={chosen as DrivenProcedure} onLeave={() => setOpen(undefined)} />
          ))
        )}
        {!holdsLink && !open && cards("Due", (unit.relearn ?? []).filter(isDue))}
        {(unit.relearn ?? []).length === 0 && (
          <EmptyState title="The unit file has no relearn">
            Go by the maker’s instructions. Procedures are written in the unit’s file, under Relearn.
          </EmptyState>
        )}
        {learned?.breakIn && (
          <BreakInPanel breakIn={learned.breakIn} mayWrite={mayWrite} onDrives={() => setDrives((d) => !d)} />
        )}
        {learned?.breakIn && drives && (
          // these drives come after the hand-over too
          <JobContext.Provider value={{ ...inJob, mayEdit: mayWrite }}>
            <Logs
              when="break-in"
              title="Drives of the break-in"
              importTitle="Drop the log of a drive of the first kilometres here"
            />
          </JobContext.Provider>
        )}
        {gauges.length > 0 && (
          <section aria-label="Learned" className="border border-rule bg-panel p-3">
            <h2 className="text-xl">Learned values</h2>
            <p className="text-quiet">
              A worn clutch takes longer to fill, so a value near its limit shows wear. Thick line: now. Thin: earlier
              readings. Long: a new unit.
            </p>
            <Gauges gauges={gauges} />
            {learned && learned.readings.length > 0 && <Readings readings={learned.readings} />}
            {mayWrite && <TypeIn />}
          </section>
        )}
        {!holdsLink &&
          !open &&
          cards(
            "Other procedures",
            (unit.relearn ?? []).filter((p) => !isDue(p)),
          )}
      </div>
    </div>
  );
}

function ProcedureCard({
  procedure,
  due,
  onOpen,
}: {
  procedure: RelearnProcedure;
  due: "required" | "drive-first" | "done" | undefined;
  onOpen: ((way: "link" | "word") => void) | undefined;
}) {
  const { machine: m, name, needs, steps, after } = procedure;
  const first = m?.policy === "drive-first" || due === "drive-first";
  return (
    <article aria-label={name} className="flex flex-col gap-2 border border-rule bg-panel p-3">
      <div className="flex flex-wrap items-baseline justify-between gap-2">
        <h2 className="text-xl">{name}</h2>
        {due === "done" ? (
          <span className="label bg-clear-wash px-2 py-0.5 text-clear">done</span>
        ) : (
          due && (
            <span className={`label px-2 py-0.5 ${first ? "bg-caution-wash text-caution" : "bg-stop-wash text-stop"}`}>
              {first ? "drive first" : "due"}
            </span>
          )
        )}
      </div>
      <p className="text-quiet">
        {m ? `${KIND[m.kind]}. ` : ""}After: {after.join("; ")}.
      </p>
      {m && (
        <dl className="text-[15px]">
          <dt className="label">Why do it</dt>
          <dd>{m.why}</dd>
          <dt className="label mt-1">Why leave it</dt>
          <dd>{m.whyNot}</dd>
        </dl>
      )}
      {m?.resets && (
        <p className="text-[15px] text-caution">
          What was learned before is forgotten: tell the owner that shifts feel different for a while.
        </p>
      )}
      <details>
        <summary className="label min-h-8 cursor-pointer">Steps</summary>
        <p className="text-quiet">Before it: {needs.join("; ")}.</p>
        <ol className="list-decimal pl-6">
          {steps.map((s) => (
            <li key={s}>{s}</li>
          ))}
        </ol>
      </details>
      {m && onOpen && (
        <div className="mt-auto flex flex-wrap gap-3">
          <Button onClick={() => onOpen("link")} aria-label={`With a link: ${name}`}>
            With a link …
          </Button>
          <Button tone="quiet" onClick={() => onOpen("word")} aria-label={`With another tool: ${name}`}>
            With another tool …
          </Button>
        </div>
      )}
    </article>
  );
}

/** Where each reading comes from, newest first. */
function Readings({
  readings,
}: {
  readings: readonly { at: string; odometerKm: number; jobNumber: string; from: string }[];
}) {
  const { show } = useSettings();
  return (
    <details className="mt-2">
      <summary className="label min-h-8 cursor-pointer">
        {readings.length} {readings.length === 1 ? "reading" : "readings"}
      </summary>
      <ul>
        {readings.toReversed().map((r) => (
          <li key={`${r.at} ${r.from}`} className="border-b border-rule py-1 last:border-0">
            <span className="figures">{r.at.slice(0, 10)}</span> · job {r.jobNumber} ·{" "}
            {show(r.odometerKm, "distance", 0)} <span className="text-quiet">{r.from}</span>
          </li>
        ))}
      </ul>
    </details>
  );
}

/** Values as another tool shows them. */
function TypeIn() {
  const [typing, setTyping] = useState(false);
  const form = useEntryForm<{ values: TypedValues }>("learned", "learned.new", undefined, {
    values: {},
  });
  if (!typing)
    return (
      <div className="mt-2 flex justify-end">
        <Button onClick={() => setTyping(true)}>Enter values …</Button>
      </div>
    );
  const typed = typedOnly(form.value.values);
  return (
    <form
      noValidate
      aria-label="Typed values"
      className="mt-2 flex flex-col gap-3 border-t border-rule pt-3"
      onSubmit={(e) => {
        e.preventDefault();
        void form.submit({ values: typed, how: "typed", note: "" }).then((stored) => stored && setTyping(false));
      }}
    >
      <FormStatus form={form} />
      <LearnedFields
        title="As the other tool shows them"
        values={form.value.values}
        onChange={(values) => form.set({ values })}
      />
      <div className="flex justify-end gap-3">
        <Button tone="quiet" onClick={() => setTyping(false)}>
          Cancel
        </Button>
        <Button type="submit" disabled={form.pending || Object.keys(typed).length === 0}>
          Save
        </Button>
      </div>
    </form>
  );
}
