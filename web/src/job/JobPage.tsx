import { Suspense, useEffect, useMemo } from "react";
import { Link, Navigate, useNavigate, useParams } from "react-router";
import { useCautions, useJobQuery, useSession, useSuspects } from "../api/queries.ts";
import { useShortcuts } from "../keys/shortcuts.tsx";
import { useSettings } from "../settings/settings.tsx";
import { Button, Notice } from "../shared/controls.tsx";
import { PageCode, Show } from "../shared/page-code.tsx";
import { TopBar } from "../shared/TopBar.tsx";
import { JobLine } from "./JobLine.tsx";
import { JobContext, type JobContextValue } from "./job-context.tsx";
import { OddsStrip } from "./OddsStrip.tsx";
import { STOP_IDS, type StopId, stateOf, stopsOf } from "./stops.ts";
import { Timeline } from "./Timeline.tsx";

const STOPS: Record<StopId, PageCode> = {
  intake: new PageCode(() => import("../intake/IntakeStop.tsx")),
  "first-look": new PageCode(() => import("../first-look/FirstLookStop.tsx")),
  scan: new PageCode(() => import("../scan/ScanStop.tsx")),
  pan: new PageCode(() => import("../pan/PanStop.tsx")),
  fluid: new PageCode(() => import("../fluid/FluidStop.tsx")),
  suspects: new PageCode(() => import("../suspects/SuspectsStop.tsx")),
  decide: new PageCode(() => import("../decide/DecideStop.tsx")),
  work: new PageCode(() => import("../work/WorkStop.tsx")),
  bench: new PageCode(() => import("../bench/BenchStop.tsx")),
  relearn: new PageCode(() => import("../relearn/RelearnStop.tsx")),
  proof: new PageCode(() => import("../proof/ProofStop.tsx")),
  handover: new PageCode(() => import("../handover/HandoverStop.tsx")),
};

const isStop = (s: string | undefined): s is StopId => STOP_IDS.some((x) => x === s);

/** One job: the line of stops at the left, one bench in the middle, the odds at the right, the timeline at the foot. */
export default function JobPage() {
  const { jobId = "", stop } = useParams();
  const navigate = useNavigate();
  // fetched beside the job, not after it
  useEffect(() => {
    if (isStop(stop)) STOPS[stop].fetch();
  }, [stop]);
  const query = useJobQuery(jobId);
  // cautions and their ticks stand before a step: no stop is shown, and nothing can be stored, before they are known
  const cautions = useCautions();
  const { data: session } = useSession();
  const { data: suspects } = useSuspects(jobId);
  const { show, system } = useSettings();
  const job = query.data;
  const value = useMemo((): JobContextValue | undefined => {
    if (!job) return undefined;
    const state = stateOf(job);
    const viewer = session?.account.role === "viewer";
    const whyNot = viewer
      ? "You are signed in as a viewer: you may look, not change."
      : state.stage === "closed"
        ? "The job is closed. If it came back, open it again at the hand-over; or take the hand-over back on the timeline."
        : "";
    return { job, state, mayEdit: whyNot === "", whyNot };
  }, [job, session]);
  const stops = value
    ? stopsOf(
        value.state,
        suspects && suspects.evidence.length > 0 ? suspects.ranking.suspects[0]?.probability : undefined,
        system,
      )
    : [];
  useShortcuts([
    ...stops.map((s) => ({
      key: s.key,
      label: s.label,
      group: "Stops",
      run: () => void navigate(`/jobs/${jobId}/${s.id}`),
    })),
    { key: "Escape", label: "Back to the bay board", group: "Job", run: () => void navigate("/") },
    {
      key: "Enter",
      label: "The orange button of the stop",
      group: "Job",
      run: () => document.querySelector<HTMLButtonElement>("main [data-primary]:not(:disabled)")?.click(),
    },
  ]);
  const failed = job ? (cautions.data ? null : cautions.error) : query.error;
  if (failed) {
    return (
      <div className="flex min-h-full flex-col">
        <TopBar>
          <Link to="/" className="label text-2xl">
            Gearsense
          </Link>
        </TopBar>
        <main className="p-6">
          <Notice
            tone="stop"
            title="This job cannot be shown"
            live
            actions={<Button onClick={() => void navigate("/")}>Bay board</Button>}
          >
            {failed.message}
          </Notice>
        </main>
      </div>
    );
  }
  if (!value || !job || !cautions.data) {
    return (
      <p role="status" className="p-8 text-quiet">
        Loading the job …
      </p>
    );
  }
  if (!isStop(stop))
    return (
      <Navigate to={`/jobs/${jobId}/${value.state.stage === "closed" ? "handover" : value.state.stage}`} replace />
    );
  return (
    <JobContext value={value}>
      <div className="flex h-full min-h-0 flex-col">
        <TopBar>
          <Link to="/" className="label truncate text-2xl" aria-label="Gearsense, back to the bay board">
            Job {job.number} · {job.vehicle.name}
          </Link>
          <span className="hidden truncate text-quiet xl:inline">
            <Link to={`/units/${job.unitId}?job=${job.id}`} className="underline decoration-field underline-offset-4">
              {job.unitName}
            </Link>{" "}
            · {show(job.odometerKm, "distance")} · {job.vehicle.owner}
          </span>
        </TopBar>
        <div className="flex min-h-0 flex-1 flex-col md:flex-row">
          <JobLine jobId={job.id} stops={stops} />
          {/* what is placed absolutely within must not lengthen the page beyond this scroller */}
          <main className="relative min-w-0 flex-1 overflow-y-auto p-4 lg:p-5">
            {value.whyNot && <p className="mb-3 border-l-4 border-field bg-panel px-3 py-2">{value.whyNot}</p>}
            <Suspense
              fallback={
                <p role="status" className="text-quiet">
                  Loading …
                </p>
              }
            >
              <Show key={stop} page={STOPS[stop]} />
            </Suspense>
          </main>
          <OddsStrip />
        </div>
        <Timeline />
      </div>
    </JobContext>
  );
}
