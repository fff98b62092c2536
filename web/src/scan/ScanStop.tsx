import type { LogRole } from "@gearsense/core/job";
import type { ImportProfile } from "@gearsense/core/log";
import { Tabs } from "radix-ui";
import { useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { useProfiles, useRecording } from "../api/queries.ts";
import { useJob } from "../job/job-context.tsx";
import { Recorder } from "../record/Recorder.tsx";
import { Cautions } from "../shared/Caution.tsx";
import { Button, Heading, Notice } from "../shared/controls.tsx";
import { ImportPanel } from "./ImportPanel.tsx";
import { LogView } from "./LogView.tsx";
import { RoadTest } from "./RoadTest.tsx";
import { Samples } from "./Samples.tsx";
import { ToRecord } from "./ToRecord.tsx";
import { useImport } from "./useImport.ts";

const NO_PROFILES: readonly ImportProfile[] = [];

/** Drives before the repair: logs with trace and findings, or a road test tapped on the application chart. */
export default function ScanStop() {
  const { state } = useJob();
  const [search, setSearch] = useSearchParams();
  const way = search.get("way") ?? (state.logs.length === 0 && state.felt.length > 0 ? "felt" : "log");
  return (
    <Tabs.Root
      value={way}
      onValueChange={(v) => setSearch(v === "felt" ? { way: "felt" } : { way: "log" }, { replace: true })}
    >
      <Tabs.List aria-label="How the drive was recorded" className="mb-3 flex flex-wrap gap-1 border-b border-ink">
        {(
          [
            ["log", "Scan log"],
            ["felt", "Road test, no scan tool"],
          ] as const
        ).map(([value, label]) => (
          <Tabs.Trigger
            key={value}
            value={value}
            className="label min-h-11 px-3 data-[state=active]:bg-slate data-[state=active]:text-on-slate"
          >
            {label}
          </Tabs.Trigger>
        ))}
      </Tabs.List>
      <Tabs.Content value="log">
        <Logs when="before" title="Scan" importTitle="Drop the log of the drive here" />
      </Tabs.Content>
      <Tabs.Content value="felt">
        <Heading title="Road test">
          What each gear, shift and range did, tapped while a helper drives or straight after. No scan tool is needed.
        </Heading>
        <RoadTest />
      </Tabs.Content>
    </Tabs.Root>
  );
}

export function Logs({
  when,
  title,
  importTitle,
  children,
}: {
  when: LogRole;
  title: string;
  importTitle: string;
  children?: React.ReactNode;
}) {
  const { job, state, mayEdit } = useJob();
  const navigate = useNavigate();
  const logs = state.logs.filter((l) => l.body.role === when);
  const isAnalysed = (logId: string) => state.analyses.some((a) => a.body.logId === logId);
  const [search] = useSearchParams();
  const [chosen, setChosen] = useState<string | undefined>(search.get("log") ?? undefined);
  const [adding, setAdding] = useState(search.has("add"));
  const { data: recording } = useRecording(job.id);
  // a recording that is not settled is shown where it was begun, whoever comes
  const unsettled = (recording?.state === "open" || recording?.state === "cut") && recording.role === when;
  const [recorder, setRecorder] = useState(false);
  const recordHere = mayEdit && (recorder || unsettled);
  const { data: profiles } = useProfiles();
  const work = useImport(job.id, job.unit, when, profiles ?? NO_PROFILES, (logId) => {
    setChosen(logId);
    setAdding(false);
  });
  const shown =
    logs.find((l) => l.body.logId === chosen) ?? logs.findLast((l) => isAnalysed(l.body.logId)) ?? logs.at(-1);
  const importing = work.phase.at !== "idle";
  const showImport = mayEdit && !recordHere && (logs.length === 0 || adding || importing || work.problem !== undefined);
  const analysed = shown !== undefined && isAnalysed(shown.body.logId);
  return (
    <>
      <Heading
        title={title}
        actions={
          mayEdit &&
          !recordHere && (
            <>
              <Button onClick={() => setRecorder(true)}>Record a drive</Button>
              {!showImport && <Button onClick={() => setAdding(true)}>Add a log</Button>}
              {!showImport && when === "before" && analysed && (
                <Button tone="primary" data-primary onClick={() => void navigate(`/jobs/${job.id}/suspects`)}>
                  Go to the suspects
                </Button>
              )}
            </>
          )
        }
      />
      <div className="flex flex-col gap-4">
        {recordHere && (
          <>
            <Recorder
              when={when}
              onKept={(logId) => {
                setRecorder(false);
                setChosen(logId);
              }}
            />
            {!unsettled && (
              <Button className="self-start" tone="quiet" onClick={() => setRecorder(false)}>
                Back to the logs
              </Button>
            )}
          </>
        )}
        {logs.length > 0 && !recordHere && children}
        {showImport && logs.length === 0 && work.phase.at === "idle" && <Cautions names={["road-test"]} />}
        {when === "before" && showImport && logs.length === 0 && work.phase.at === "idle" && <ToRecord />}
        {showImport && <ImportPanel work={work} title={importTitle} disabled={!mayEdit} />}
        {showImport && work.phase.at === "idle" && (
          <Samples onTry={mayEdit ? (file) => void work.take(file, "") : undefined} />
        )}
        {!showImport && !recordHere && logs.length === 0 && <p className="text-quiet">No log has been stored.</p>}
        {/* without a log what stands in for it comes after the place for one */}
        {logs.length === 0 && !recordHere && children}
        {logs.length > 1 && !importing && !recordHere && (
          <fieldset className="flex flex-wrap gap-1.5">
            <legend className="sr-only">Logs</legend>
            {logs.map((l) => (
              <button
                key={l.id}
                type="button"
                aria-pressed={l === shown}
                onClick={() => setChosen(l.body.logId)}
                className="label min-h-11 border border-field bg-panel px-3 aria-pressed:bg-slate aria-pressed:text-on-slate"
              >
                {l.body.label ? `${l.body.label}: ` : ""}
                {l.body.fileName}
              </button>
            ))}
          </fieldset>
        )}
        {shown && !importing && !recordHere && !analysed && (
          <Notice
            tone="caution"
            title={`${shown.body.fileName} is stored and not analysed yet`}
            actions={
              mayEdit && (
                <Button onClick={() => void work.reopen(shown.body.logId, shown.body.fileName)}>
                  Open its columns
                </Button>
              )
            }
          >
            The file is kept unchanged. Check what each column is, then analyse it; or take it back on the timeline.
          </Notice>
        )}
        {shown && !importing && !recordHere && analysed && (
          <LogView
            key={shown.body.logId}
            log={shown}
            finding={shown.body.logId === search.get("log") ? (search.get("finding") ?? undefined) : undefined}
          />
        )}
      </div>
    </>
  );
}
