import {
  DndContext,
  type DragEndEvent,
  KeyboardSensor,
  PointerSensor,
  useDraggable,
  useDroppable,
  useSensor,
  useSensors,
} from "@dnd-kit/core";
import type { WeekView } from "@gearsense/contract";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import clsx from "clsx";
import { CalendarDays, ChevronLeft, ChevronRight, GripVertical, Pin, PinOff } from "lucide-react";
import { type ReactNode, useState } from "react";
import { Link, useNavigate } from "react-router";
import { toast } from "sonner";
import { ApiFailure, call, urlOf } from "../api/client.ts";
import { keys, useSession, useWeek } from "../api/queries.ts";
import { useShortcuts } from "../keys/shortcuts.tsx";
import { Button, EmptyState, Heading, Notice } from "../shared/controls.tsx";
import { TopBar } from "../shared/TopBar.tsx";
import { hours } from "../work/hours.ts";
import { ShopSetupForm } from "./ShopSetupForm.tsx";
import { daysShown, hoursShown, joined, liftHolds, segmentsOf } from "./segments.ts";
import { localWords } from "./when.ts";

type Setup = WeekView["setup"];
type WeekJob = WeekView["jobs"][number];

const LINK = "label inline-flex min-h-11 items-center gap-2 rounded-sm border border-field px-3 hover:border-ink";

/** Changes of the week are stored with what they began from; a stale one is told and nothing is lost. */
function useSave() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: { setup: Setup; baseSeq: number }) => call("saveSetup", { body }),
    onSuccess: (week) => client.setQueryData(keys.week, week),
    onError: (error) => {
      toast.error(error instanceof ApiFailure ? error.message : String(error));
      void client.invalidateQueries({ queryKey: keys.week });
    },
  });
}

/** Who is where with which job, what is promised and how sure that is; a job is dragged to a lift and a day to pin it. */
export default function WeekPage() {
  const { data, error } = useWeek();
  return (
    <div className="flex min-h-full flex-col">
      <TopBar>
        <Link to="/" className="label text-2xl">
          Gearsense
        </Link>
        <span className="truncate text-quiet">This week</span>
      </TopBar>
      <main className="flex-1 p-5">
        {error && (
          <Notice tone="stop" title="The week could not be made" live>
            {error.message}
          </Notice>
        )}
        {!data && !error && <p role="status">Making the week …</p>}
        {data && <Week week={data} />}
      </main>
    </div>
  );
}

function Week({ week }: { week: WeekView }) {
  const { data: session } = useSession();
  const mayEdit = session !== undefined && session.account.role !== "viewer";
  // on a weekend on which nobody works the next week is the one to look at
  const [offset, setOffset] = useState(() =>
    (daysShown(week.at, 0, week.setup).at(-1) ?? "") < week.at.slice(0, 10) ? 1 : 0,
  );
  const save = useSave();
  const navigate = useNavigate();
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 6 } }),
    useSensor(KeyboardSensor),
  );
  const days = daysShown(week.at, offset, week.setup);
  const span = hoursShown(week.setup);
  useShortcuts([
    { key: "Escape", label: "Back to the bay board", group: "Week", run: () => void navigate("/") },
    { key: "ArrowRight", label: "Next week", group: "Week", run: () => setOffset((o) => Math.min(7, o + 1)) },
    { key: "ArrowLeft", label: "The week before", group: "Week", run: () => setOffset((o) => Math.max(0, o - 1)) },
  ]);
  const pin = (jobId: string, to: { fromAt: string; lift: string | null } | undefined) =>
    save.mutate({
      setup: {
        ...week.setup,
        pins: [...week.setup.pins.filter((p) => p.jobId !== jobId), ...(to ? [{ jobId, ...to }] : [])],
      },
      baseSeq: week.seq,
    });
  const onDragEnd = ({ active, over }: DragEndEvent) => {
    if (!over || !mayEdit) return;
    const [lift = "", day = ""] = String(over.id).split("|");
    const start = `${String(Math.floor(span[0] / 60)).padStart(2, "0")}:${String(span[0] % 60).padStart(2, "0")}`;
    pin(String(active.id), { fromAt: `${day}T${start}`, lift });
  };
  return (
    <DndContext sensors={sensors} onDragEnd={onDragEnd}>
      <Heading
        title={`Week of ${localWords(days[0] ?? week.at.slice(0, 10))}`}
        actions={
          <>
            <Button aria-label="The week before" disabled={offset === 0} onClick={() => setOffset(offset - 1)}>
              <ChevronLeft aria-hidden="true" className="size-5" />
            </Button>
            <Button aria-label="Next week" disabled={offset === 7} onClick={() => setOffset(offset + 1)}>
              <ChevronRight aria-hidden="true" className="size-5" />
            </Button>
            <a href={urlOf("weekCalendar")} className={LINK} download>
              <CalendarDays aria-hidden="true" className="size-5" />
              Calendar file
            </a>
          </>
        }
      >
        {week.jobs.length === 0
          ? "No job waits for work."
          : `${week.jobs.length} ${week.jobs.length === 1 ? "job waits" : "jobs wait"} for work; worked out ${localWords(week.at)} from the ticks.`}
      </Heading>
      <Board week={week} days={days} span={span} />
      {week.jobs.length === 0 ? (
        <EmptyState title="Nothing to plan">A decision makes a plan, and the plan stands here.</EmptyState>
      ) : (
        <ul className="mt-4 grid gap-3 lg:grid-cols-2">
          {week.jobs.map((j) => (
            <JobCard
              key={j.jobId}
              job={j}
              week={week}
              mayEdit={mayEdit}
              pending={save.isPending}
              onPin={(to) => pin(j.jobId, to)}
            />
          ))}
        </ul>
      )}
      <ShopSetupForm
        week={week}
        mayEdit={mayEdit}
        pending={save.isPending}
        onSave={(setup) => save.mutate({ setup, baseSeq: week.seq })}
      />
    </DndContext>
  );
}

/** Lifts and people down, days across. */
function Board({ week, days, span }: { week: WeekView; days: readonly string[]; span: readonly [number, number] }) {
  const job = new Map(week.jobs.map((j) => [j.jobId, j]));
  const name = (id: string) => job.get(id)?.number ?? "";
  const late = (id: string) => {
    const j = job.get(id);
    return j?.odds !== null && j?.odds !== undefined && j.odds < 0.6;
  };
  const holds = liftHolds(week.blocks);
  const offDay = (day: string) => week.setup.holidays.find((h) => h.day === day);
  const columns = { gridTemplateColumns: `120px repeat(${days.length}, minmax(130px, 1fr))` };
  const bar = (
    key: string,
    jobId: string,
    from: number,
    to: number,
    kind: "held" | "strip" | "work",
    words: string,
  ) => (
    <Link
      key={key}
      to={`/jobs/${jobId}/work`}
      title={words}
      aria-label={words}
      tabIndex={kind === "strip" ? -1 : 0}
      className={clsx(
        "absolute overflow-hidden border px-1 text-[15px] leading-6",
        kind === "held" && clsx("inset-y-1 bg-ground text-ink", late(jobId) ? "border-stop" : "border-field"),
        kind === "strip" && "bottom-1.5 h-3 border-none",
        kind === "work" && "inset-y-1.5",
        kind !== "held" && (late(jobId) ? "border-stop bg-stop-wash text-ink" : "border-slate bg-slate text-on-slate"),
      )}
      style={{ left: `${from * 100}%`, width: `${(to - from) * 100}%` }}
    >
      {kind !== "strip" && <span className="figures">{name(jobId)}</span>}
    </Link>
  );
  return (
    <section aria-label="Lifts and people" className="overflow-x-auto border border-rule bg-panel">
      <div className="grid min-w-[820px]" style={columns}>
        <span className="border-b border-ink p-2" />
        {days.map((d) => (
          <span
            key={d}
            className={clsx("label border-b border-l border-ink p-2", d === week.at.slice(0, 10) && "bg-action-wash")}
          >
            {localWords(d)}
            {offDay(d) && <span className="block text-sm text-quiet">{offDay(d)?.name}</span>}
          </span>
        ))}
        {week.setup.lifts.map((l) => (
          <Row key={l.id} name={l.name} days={days} dropOn={l.id}>
            {(day) => [
              ...holds
                .filter((h) => h.lift === l.id)
                .flatMap((h) =>
                  segmentsOf(h.startAt, h.endAt, [day], span).map((s) =>
                    bar(`h${h.jobId}`, h.jobId, s.from, s.to, "held", `Job ${name(h.jobId)} keeps the lift`),
                  ),
                ),
              ...joined(week.blocks.filter((b) => b.lift === l.id)).flatMap((b, i) =>
                segmentsOf(b.startAt, b.endAt, [day], span).map((s) =>
                  bar(`b${b.jobId}${i}`, b.jobId, s.from, s.to, "strip", words(b)),
                ),
              ),
            ]}
          </Row>
        ))}
        {week.setup.people.map((p) => (
          <Row key={p.id} name={p.name} days={days}>
            {(day) =>
              joined(week.blocks.filter((b) => b.people.includes(p.id))).flatMap((b, i) =>
                segmentsOf(b.startAt, b.endAt, [day], span).map((s) =>
                  bar(`p${b.jobId}${i}`, b.jobId, s.from, s.to, "work", words(b)),
                ),
              )
            }
          </Row>
        ))}
      </div>
    </section>
  );
  function words(b: WeekView["blocks"][number]): string {
    const who = b.people.map((id) => week.setup.people.find((p) => p.id === id)?.name ?? id).join(" and ");
    return `Job ${name(b.jobId)}: ${who}, ${localWords(b.startAt)} to ${localWords(b.endAt)}, ${b.steps.length} steps`;
  }
}

function Row({
  name,
  days,
  dropOn,
  children,
}: {
  name: string;
  days: readonly string[];
  dropOn?: string;
  children: (day: string) => ReactNode;
}) {
  return (
    <>
      <span className="label border-t border-rule p-2">{name}</span>
      {days.map((d) =>
        dropOn ? (
          <DropCell key={d} id={`${dropOn}|${d}`}>
            {children(d)}
          </DropCell>
        ) : (
          <div key={d} className="relative h-11 border-t border-l border-rule">
            {children(d)}
          </div>
        ),
      )}
    </>
  );
}

function DropCell({ id, children }: { id: string; children: ReactNode }) {
  const { setNodeRef, isOver } = useDroppable({ id });
  return (
    <div
      ref={setNodeRef}
      data-cell={id}
      className={clsx("relative h-14 border-t border-l border-rule", isOver && "bg-action-wash")}
    >
      {children}
    </div>
  );
}

const oddsTone = (odds: number) =>
  odds >= 0.85
    ? "border-clear bg-clear-wash"
    : odds >= 0.6
      ? "border-caution bg-caution-wash"
      : "border-stop bg-stop-wash";
const oddsWord = (odds: number) => (odds >= 0.85 ? "holds" : odds >= 0.6 ? "tight" : "will be late");

function JobCard({
  job,
  week,
  mayEdit,
  pending,
  onPin,
}: {
  job: WeekJob;
  week: WeekView;
  mayEdit: boolean;
  pending: boolean;
  onPin: (to: { fromAt: string; lift: string | null } | undefined) => void;
}) {
  const { attributes, listeners, setNodeRef, transform, isDragging } = useDraggable({
    id: job.jobId,
    disabled: !mayEdit,
  });
  const pinned = week.setup.pins.find((p) => p.jobId === job.jobId);
  const [pinning, setPinning] = useState(false);
  return (
    <li
      ref={setNodeRef}
      aria-label={`Job ${job.number}`}
      className={clsx(
        "flex gap-2 border border-rule border-l-4 border-l-slate bg-panel p-3",
        isDragging && "relative z-20 opacity-80 shadow-lg",
      )}
      style={transform ? { transform: `translate(${transform.x}px, ${transform.y}px)` } : undefined}
    >
      {mayEdit && (
        <button
          type="button"
          className="min-h-11 min-w-11 cursor-grab touch-none text-quiet"
          aria-label={`Drag job ${job.number} to a lift and a day`}
          {...attributes}
          {...listeners}
        >
          <GripVertical aria-hidden="true" className="mx-auto size-6" />
        </button>
      )}
      <div className="min-w-0 flex-1">
        <div className="flex flex-wrap items-baseline justify-between gap-2">
          <Link to={`/jobs/${job.jobId}/work`} className="label text-lg underline">
            {job.number} · {job.vehicle}
          </Link>
          <span className="figures text-quiet">
            {job.stepsDone} of {job.steps} steps
          </span>
        </div>
        <p>{job.title}</p>
        <div className="mt-1 flex flex-wrap items-center gap-2">
          {job.promisedAt === null ? (
            <span className="text-quiet">
              Nothing promised{job.sureAt ? `; safe (9 in 10): ${localWords(job.sureAt)}` : ""}
            </span>
          ) : (
            <span
              className={clsx(
                "label border-l-4 px-2 py-1",
                job.odds === null ? "border-stop bg-stop-wash" : oddsTone(job.odds),
              )}
            >
              Promised {localWords(job.promisedAt)}:{" "}
              {job.odds === null ? "cannot be kept" : `${Math.round(job.odds * 100)} %, ${oddsWord(job.odds)}`}
            </span>
          )}
          {job.readyAt && <span className="text-quiet">likely ready {localWords(job.readyAt)}</span>}
        </div>
        {job.problem && <p className="mt-1 border-l-4 border-stop bg-stop-wash px-2 py-1">It {job.problem}.</p>}
        {job.waitsForParts && job.partsOn && (
          <p className="mt-1 text-sm">Parts are there on {localWords(job.partsOn)}.</p>
        )}
        {job.orders.map((o) => (
          <p key={o.name} className="text-sm">
            {o.name}:{" "}
            {o.orderedOn ? (
              `ordered ${localWords(o.orderedOn)}${o.dueOn ? `, due ${localWords(o.dueOn)}` : ""}`
            ) : o.orderBy ? (
              <strong>
                order by {localWords(o.orderBy)}
                {o.orderBy < week.at.slice(0, 10) ? ", which is past" : ""}
              </strong>
            ) : (
              "not ordered"
            )}
          </p>
        ))}
        {job.lost.length > 0 && (
          <p className="text-sm text-quiet">
            Time lost: {job.lost.map((t) => `${t.title} ${hours(t.minutes)} for ${hours(t.likelyMin)}`).join("; ")}.
          </p>
        )}
        {mayEdit && (
          <div className="mt-2 flex flex-wrap items-center gap-2">
            {pinned && (
              <span className="label text-sm">
                <Pin aria-hidden="true" className="mr-1 inline size-4" />
                pinned {localWords(pinned.fromAt)}
                {pinned.lift ? `, ${week.setup.lifts.find((l) => l.id === pinned.lift)?.name ?? pinned.lift}` : ""}
              </span>
            )}
            {pinned ? (
              <Button disabled={pending} onClick={() => onPin(undefined)}>
                <PinOff aria-hidden="true" className="size-5" />
                Unpin
              </Button>
            ) : (
              <Button disabled={pending} onClick={() => setPinning(!pinning)} aria-expanded={pinning}>
                <Pin aria-hidden="true" className="size-5" />
                Pin
              </Button>
            )}
          </div>
        )}
        {pinning && !pinned && (
          <PinForm
            week={week}
            onPin={(to) => {
              setPinning(false);
              onPin(to);
            }}
          />
        )}
      </div>
    </li>
  );
}

/** The same without a mouse: from when, on which lift. */
function PinForm({ week, onPin }: { week: WeekView; onPin: (to: { fromAt: string; lift: string | null }) => void }) {
  const [fromAt, setFromAt] = useState(week.at.slice(0, 16));
  const [lift, setLift] = useState(week.setup.lifts[0]?.id ?? "");
  return (
    <form
      className="mt-2 flex flex-wrap items-end gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        onPin({ fromAt, lift: lift === "" ? null : lift });
      }}
    >
      <label className="flex flex-col">
        <span className="label text-sm">Not before</span>
        <input
          type="datetime-local"
          required
          className="min-h-11 border border-field bg-panel px-2"
          value={fromAt}
          onChange={(e) => setFromAt(e.target.value.slice(0, 16))}
        />
      </label>
      <label className="flex flex-col">
        <span className="label text-sm">Lift</span>
        <select
          className="min-h-11 border border-field bg-panel px-2"
          value={lift}
          onChange={(e) => setLift(e.target.value)}
        >
          <option value="">Any</option>
          {week.setup.lifts.map((l) => (
            <option key={l.id} value={l.id}>
              {l.name}
            </option>
          ))}
        </select>
      </label>
      <Button type="submit" className="border-slate">
        Pin it there
      </Button>
    </form>
  );
}
