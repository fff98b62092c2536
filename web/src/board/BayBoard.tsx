import type { JobSummaryView } from "@gearsense/contract";
import { useQueryClient } from "@tanstack/react-query";
import { formatDistanceToNowStrict } from "date-fns";
import { ArchiveRestore, Plus } from "lucide-react";
import { useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { toast } from "sonner";
import { ApiFailure, call } from "../api/client.ts";
import { takeJob, useJobs, useSession } from "../api/queries.ts";
import { STOP_LABELS, type StopId } from "../job/stops.ts";
import { useShortcuts } from "../keys/shortcuts.tsx";
import { useSettings } from "../settings/settings.tsx";
import { Button, EmptyState, Notice } from "../shared/controls.tsx";
import { FileButton } from "../shared/FileButton.tsx";
import { TopBar } from "../shared/TopBar.tsx";
import { FirstSteps } from "./FirstSteps.tsx";

/** Stages that belong together on the board, in the order of a job. */
const LANES: readonly { readonly title: string; readonly stages: readonly StopId[] }[] = [
  { title: "Look and scan", stages: ["intake", "first-look", "scan"] },
  { title: "Suspects and decision", stages: ["suspects", "decide"] },
  { title: "Work", stages: ["work"] },
  { title: "Proof and hand-over", stages: ["proof", "handover"] },
];

function Card({ job }: { job: JobSummaryView }) {
  const { show } = useSettings();
  return (
    // far down a long list it is not laid out before it comes into view
    <li className="[contain-intrinsic-size:auto_150px] [content-visibility:auto]">
      <Link
        to={`/jobs/${job.id}`}
        className="block border border-rule border-l-4 border-l-slate bg-panel p-3 hover:border-ink"
      >
        <div className="flex items-baseline justify-between gap-2">
          <span className="label text-lg leading-6">{job.vehicle.name}</span>
          <span className="figures text-lg text-quiet">{job.number}</span>
        </div>
        <p className="mt-1 line-clamp-2">{job.complaint}</p>
        <p className="label mt-2 text-[15px]">
          {job.stage === "closed" ? (
            <span className="text-clear">Handed over</span>
          ) : (
            <>
              {STOP_LABELS[job.stage]} · <span className="text-action">waits for {job.waitsFor}</span>
            </>
          )}
        </p>
        <p className="mt-1 text-sm text-quiet">
          {job.unitName} · {show(job.odometerKm, "distance")} · {formatDistanceToNowStrict(new Date(job.lastEntryAt))}{" "}
          ago{job.assignedTo && ` · ${job.assignedTo}`}
        </p>
      </Link>
    </li>
  );
}

export function BayBoard() {
  const { data: session } = useSession();
  const [search, setSearch] = useSearchParams();
  const mine = search.has("mine");
  const whose = mine ? (session?.account.name ?? "") : "";
  const opened = useJobs("open", whose);
  const handedOver = useJobs("closed", whose);
  const { error, refetch } = opened;
  const navigate = useNavigate();
  const mayEdit = session?.account.role !== "viewer";
  useShortcuts([
    ...(mayEdit ? [{ key: "n", label: "Open a job", group: "Bay board", run: () => void navigate("/jobs/new") }] : []),
    { key: "w", label: "This week", group: "Bay board", run: () => void navigate("/week") },
    { key: "f", label: "Fluid bench", group: "Bay board", run: () => void navigate("/fluid") },
    { key: "g", label: "Unit library", group: "Bay board", run: () => void navigate("/units") },
  ]);
  const open = opened.data?.pages.flatMap((p) => p.jobs);
  const closed = handedOver.data?.pages.flatMap((p) => p.jobs) ?? [];
  const byStage = opened.data?.pages.at(-1)?.byStage ?? {};
  const count = (stages: readonly string[]) =>
    Object.entries(byStage).reduce((sum, [stage, n]) => sum + (stages.includes(stage) ? n : 0), 0);
  const openCount = count(LANES.flatMap((l) => l.stages));
  return (
    <div className="flex min-h-full flex-col">
      <TopBar>
        <span className="label text-2xl">Gearsense</span>
        <span className="truncate text-quiet">{session?.shop.name}</span>
      </TopBar>
      <main className="flex-1 p-5">
        <div className="mb-4 flex flex-wrap items-end justify-between gap-2">
          <h1 className="text-[28px] leading-8">
            Bay board <span className="text-quiet">· {openCount} open</span>
          </h1>
          <div className="flex flex-wrap gap-2">
            <Button
              aria-pressed={mine}
              className="aria-pressed:bg-slate aria-pressed:text-on-slate"
              onClick={() => setSearch(mine ? {} : { mine: "" }, { replace: true })}
            >
              Mine
            </Button>
            <Button onClick={() => void navigate("/week")}>This week</Button>
            <Button onClick={() => void navigate("/fluid")}>Fluid bench</Button>
            <Button onClick={() => void navigate("/units")}>Unit library</Button>
            {session?.account.role === "owner" && <ImportJob />}
            {mayEdit && (
              <Button tone="primary" onClick={() => void navigate("/jobs/new")}>
                <Plus aria-hidden="true" className="size-5" />
                Open a job
              </Button>
            )}
          </div>
        </div>
        {error && (
          <Notice
            tone="stop"
            title="The jobs could not be loaded"
            live
            actions={<Button onClick={() => void refetch()}>Try again</Button>}
          >
            {error.message}
          </Notice>
        )}
        {mine && open && openCount + count(["closed"]) === 0 && (
          <EmptyState title="No job is in your hands">Whoever has a job in hand is chosen beside its stops.</EmptyState>
        )}
        {!mine && open && openCount + count(["closed"]) === 0 && session?.account.role === "owner" && <FirstSteps />}
        {!mine && open && openCount + count(["closed"]) === 0 && session?.account.role !== "owner" && (
          <EmptyState
            title="No job yet"
            action={
              mayEdit ? <Button onClick={() => void navigate("/jobs/new")}>Open the first job</Button> : undefined
            }
          >
            A job starts with the vehicle, its transmission and the complaint in the customer's words.
          </EmptyState>
        )}
        {open && openCount + count(["closed"]) > 0 && (
          <div className="grid gap-4 md:grid-cols-2 lg:grid-cols-4">
            {LANES.map((lane) => {
              const list = (open ?? []).filter((j) => lane.stages.includes(j.stage as StopId));
              return (
                <section key={lane.title} aria-label={lane.title}>
                  <h2 className="mb-2 flex justify-between border-b-2 border-slate pb-1 text-lg">
                    {lane.title} <span className="figures text-quiet">{count(lane.stages)}</span>
                  </h2>
                  <ul className="flex flex-col gap-2.5">
                    {list.map((j) => (
                      <Card key={j.id} job={j} />
                    ))}
                  </ul>
                  {list.length === 0 && (
                    <p className="py-3 text-quiet">
                      {count(lane.stages) === 0 ? "Nothing here." : "None among these."}
                    </p>
                  )}
                </section>
              );
            })}
          </div>
        )}
        <More of={opened} shown={open?.length ?? 0} all={openCount} />
        {closed.length > 0 && (
          <section className="mt-7" aria-label="Closed">
            <h2 className="mb-2 border-b border-rule pb-1 text-lg">Handed over</h2>
            <ul className="grid gap-2.5 md:grid-cols-2 lg:grid-cols-4">
              {closed.map((j) => (
                <Card key={j.id} job={j} />
              ))}
            </ul>
            <More of={handedOver} shown={closed.length} all={count(["closed"])} />
          </section>
        )}
      </main>
    </div>
  );
}

/** The next page of a list, when there is one. */
function More({ of, shown, all }: { of: ReturnType<typeof useJobs>; shown: number; all: number }) {
  if (!of.hasNextPage) return null;
  return (
    <div className="mt-3 flex items-center gap-3">
      <Button onClick={() => void of.fetchNextPage()} disabled={of.isFetchingNextPage}>
        Show more
      </Button>
      <p role="status" className="text-quiet">
        {shown} of {all}, newest first. Search finds any of them.
      </p>
    </div>
  );
}

function ImportJob() {
  const client = useQueryClient();
  const navigate = useNavigate();
  const [problem, setProblem] = useState<string | undefined>();
  const take = async (file: File) => {
    setProblem(undefined);
    try {
      const { job, leftOut } = await call("importJob", { body: file });
      await takeJob(client, job);
      toast(`Job ${job.number} imported`);
      // read at leisure: it stays until it is put away
      for (const text of leftOut) toast.warning(text, { duration: Number.POSITIVE_INFINITY, closeButton: true });
      await navigate(`/jobs/${job.id}`);
    } catch (error) {
      if (!(error instanceof ApiFailure)) throw error;
      setProblem(error.message);
    }
  };
  return (
    <>
      {problem && (
        <Notice tone="stop" live>
          {problem}
        </Notice>
      )}
      <FileButton label="Exported job (zip)" accept=".zip" onFile={(file) => void take(file)}>
        <ArchiveRestore aria-hidden="true" className="size-5" />
        Import a job
      </FileButton>
    </>
  );
}
