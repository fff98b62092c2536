import type { CatalogueView, SuspectsView } from "@gearsense/contract";
import { percent } from "@gearsense/core/quantity";
import { agreedPrice } from "@gearsense/core/report";
import { Tabs } from "radix-ui";
import { useMemo, useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { useCatalogue, useSuspects } from "../api/queries.ts";
import { OwnFactors } from "../figures/OwnOdds.tsx";
import { Contradictions } from "../job/Contradictions.tsx";
import { useJob } from "../job/job-context.tsx";
import { LevelMissing } from "../job/LevelMissing.tsx";
import { Weights } from "../job/OddsStrip.tsx";
import { Button, EmptyState, Heading, Notice, SelectField } from "../shared/controls.tsx";
import { useMoney } from "../shared/useMoney.ts";
import { AfterRepairs } from "./AfterRepairs.tsx";
import { ApplicationChart } from "./ApplicationChart.tsx";
import { CheckTree } from "./CheckTree.tsx";
import { CircuitView } from "./CircuitView.tsx";
import { RecordCheck } from "./RecordCheck.tsx";
import { RecordTried } from "./RecordTried.tsx";
import { sourceOf } from "./sources.ts";
import { chartSentence, stuckSentence } from "./suspects-text.ts";
import { Doubts, Explanations, Leverage, Orders } from "./Verdict.tsx";

type NextCheck = SuspectsView["advice"]["checks"][number];
type Check = CatalogueView["checks"][number];

const STOP_WORDS = {
  "nothing-left": "No check is left that would tell anything.",
  "cannot-change": "No check can change the choice: whatever it showed, this would be repaired.",
  "does-not-pay": "No open check would lower the likely total.",
  "gives-up":
    "Nothing known here is likely to cure it for less than an exchange. Go back over what was entered, put aside what is in doubt, or ask the maker's support.",
} as const;

/** What explains it, what speaks for and against, and which check to make next. */
export default function SuspectsStop() {
  const { job, state, mayEdit } = useJob();
  const { data, error } = useSuspects(job.id);
  const { data: catalogue } = useCatalogue(job.id);
  const money = useMoney();
  const [recording, setRecording] = useState<Check | undefined>();
  const [search] = useSearchParams();
  const [tried, setTried] = useState(search.has("record"));
  const [tab, setTab] = useState<string | undefined>();
  const sources = useMemo(() => {
    const entries = job.entries as Parameters<typeof sourceOf>[1];
    return new Map((data?.evidence ?? []).map((e) => [e.id, sourceOf(job.id, entries, e)]));
  }, [job, data]);
  if (error)
    return (
      <Notice tone="stop" title="The suspects cannot be computed" live>
        {error.message}
      </Notice>
    );
  if (!data) return <p role="status">Computing the suspects …</p>;
  if (data.evidence.length === 0)
    return (
      <EmptyState title="Nothing is known yet">
        Record the symptoms, the fluid level and a log of the drive: each moves the odds.
      </EmptyState>
    );
  const agreed = agreedPrice(state);
  const sentence = chartSentence(job.unit, data.chart);
  const stuck = stuckSentence(job.unit, data.chart);
  // the level comes before anything else: no odds are worth a costlier step without it
  const levelFirst = data.levelKnown ? undefined : data.advice.checks.find((c) => c.check.id === "level");
  const next = levelFirst ?? data.advice.checks[0];
  // without a drive the odds rest on words: no check beyond the level is worth more than one, with a scan tool or without
  const driveFirst = !levelFirst && state.analyses.length === 0 && state.felt.length === 0;
  const actNow = data.advice.act === "repair" && !levelFirst && !driveFirst;
  const step: Step = driveFirst ? { kind: "drive", next } : actNow ? { kind: "decide" } : { kind: "check", next };
  // the wiring comes and goes with what is known of it
  const shownTab = tab && (tab !== "wiring" || data.circuit) ? tab : data.circuit ? "wiring" : "weights";
  const record = mayEdit ? (id: string) => setRecording(catalogue?.checks.find((c) => c.id === id)) : undefined;
  return (
    <>
      <Heading
        title={sentence.title}
        actions={mayEdit && <PrimaryAction step={step} job={job.id} onCheck={(c) => setRecording(c.check)} />}
      >
        {sentence.detail}
      </Heading>
      <div className="flex flex-col gap-4">
        <Contradictions />
        {!data.levelKnown && (
          <LevelMissing>Whole units have been changed for a low level. It comes before every other check.</LevelMissing>
        )}
        {stuck && (
          <Notice tone="plain" title={stuck.title}>
            {stuck.detail}
          </Notice>
        )}
        {agreed && state.decision && (
          <Notice tone="plain" title={`Decided: ${state.decision.body.title}`}>
            Price <span data-testid="agreed-price">{money(agreed.net)}</span>
            {agreed.from === "estimate" ? ", as in the estimate." : "."}
          </Notice>
        )}
        <AfterRepairs evidence={data.evidence} />
        <Doubts data={data} />
        <div className="grid gap-4 xl:grid-cols-[minmax(0,5fr)_minmax(0,6fr)]">
          <ApplicationChart unit={job.unit} chart={data.chart} />
          <section aria-label="Next step" className="flex flex-col gap-3 border border-rule p-3">
            <h2 className="text-xl">
              {levelFirst
                ? "First of all"
                : actNow
                  ? "Enough is known: act"
                  : "Next check, by likely total to a right repair"}
            </h2>
            <NextStep step={step} data={data} money={money} level={levelFirst !== undefined} />
            {!levelFirst && !driveFirst && <Orders money={money} />}
          </section>
        </div>
        <Tabs.Root value={shownTab} onValueChange={setTab}>
          <Tabs.List aria-label="What the odds rest on" className="flex flex-wrap gap-1 border-b border-ink">
            <Tab value="weights">For and against</Tab>
            <Tab value="rests">What it rests on</Tab>
            {data.circuit && <Tab value="wiring">Wiring</Tab>}
            <Tab value="checks">Choose another check</Tab>
          </Tabs.List>
          <Tabs.Content value="weights" className="pt-3">
            <ForAndAgainst data={data} sourceOf={(id) => sources.get(id)} />
          </Tabs.Content>
          <Tabs.Content value="rests" className="flex flex-col gap-4 pt-3">
            {data.own && (
              <section aria-label="Own jobs" className="flex flex-col gap-2 overflow-x-auto border border-rule p-3">
                <h3 className="text-lg">Moved by our own jobs</h3>
                <p>
                  Before any sign of this vehicle the odds stand as {data.own.jobs} proved{" "}
                  {data.own.jobs === 1 ? "repair" : "repairs"} of this shop have moved them.
                </p>
                <OwnFactors factors={data.own.factors} />
              </section>
            )}
            <Explanations ranking={data.ranking} />
            <Leverage ranking={data.ranking} sourceOf={(id) => sources.get(id)} />
          </Tabs.Content>
          {data.circuit && (
            <Tabs.Content value="wiring" className="pt-3">
              <CircuitView
                unit={job.unit}
                circuit={data.circuit}
                onRecord={catalogue ? record : undefined}
                sourceOfEntry={(entryId) => {
                  const e = data.evidence.find((x) => x.entryId === entryId);
                  return e && sources.get(e.id);
                }}
              />
            </Tabs.Content>
          )}
          <Tabs.Content value="checks" className="pt-3">
            <OtherChecks data={data} catalogue={catalogue} money={money} onPick={mayEdit ? setRecording : undefined} />
          </Tabs.Content>
        </Tabs.Root>
        <Made onTried={mayEdit && catalogue ? () => setTried(true) : undefined} />
      </div>
      {recording && <RecordCheck check={recording} onClose={() => setRecording(undefined)} />}
      {tried && catalogue && <RecordTried repairs={catalogue.repairs} onClose={() => setTried(false)} />}
    </>
  );
}

function Tab({ value, children }: { value: string; children: React.ReactNode }) {
  return (
    <Tabs.Trigger
      value={value}
      className="label min-h-11 px-3 data-[state=active]:bg-slate data-[state=active]:text-on-slate"
    >
      {children}
    </Tabs.Trigger>
  );
}

type Step =
  | { readonly kind: "drive"; readonly next: NextCheck | undefined }
  | { readonly kind: "decide" }
  | { readonly kind: "check"; readonly next: NextCheck | undefined };

function NextStep({
  step,
  data,
  money,
  level,
}: {
  step: Step;
  data: SuspectsView;
  money: (n: number) => string;
  level: boolean;
}) {
  const [repair, ...others] = data.advice.options;
  if (step.kind === "drive")
    return (
      <>
        <p>
          Reproduce the complaint on a quiet road with a helper at the wheel: with the scan tool recording, or without
          one by tapping on the chart what each gear does. Good gears clear elements, bad gears accuse them.
        </p>
        {step.next && (
          <div>
            <h3 className="text-[17px]">If it cannot be driven</h3>
            <CheckTree next={step.next} money={money} />
          </div>
        )}
      </>
    );
  if (step.kind === "check")
    return (
      step.next && (
        <>
          <CheckTree next={step.next} money={money} />
          {!level && repair && (
            <p className="text-quiet">
              It lowers the likely total by about {money(repair.expectedCost - step.next.expectedCost)} against acting
              now ({repair.repair.title}, price {money(repair.cost)}).
            </p>
          )}
        </>
      )
    );
  if (!repair) return <p>No repair of the catalogue cures what is suspected.</p>;
  return (
    <>
      <p className="label text-lg">{repair.repair.title}</p>
      <p className="figures text-lg">
        cures {percent(repair.cures)} · price {money(repair.cost)}
      </p>
      <p className="text-quiet">{STOP_WORDS[data.advice.stop ?? "does-not-pay"]}</p>
      <h3 className="text-[17px]">Instead</h3>
      <ul>
        {others.slice(0, 3).map((o) => (
          <li key={o.repair.id} className="border-b border-rule py-1.5">
            {o.repair.title}
            <span className="figures block text-[15px] text-quiet">
              cures {percent(o.cures)} · price {money(o.cost)}
            </span>
          </li>
        ))}
      </ul>
    </>
  );
}

function PrimaryAction({ step, job, onCheck }: { step: Step; job: string; onCheck: (c: NextCheck) => void }) {
  const navigate = useNavigate();
  if (step.kind === "check") {
    const { next } = step;
    return (
      next && (
        <Button tone="primary" data-primary onClick={() => onCheck(next)}>
          Make this check
        </Button>
      )
    );
  }
  if (step.kind === "drive") {
    const { next } = step;
    return (
      <>
        {next && <Button onClick={() => onCheck(next)}>Make this check</Button>}
        <Button onClick={() => void navigate(`/jobs/${job}/scan?way=felt`)}>Road test, no scan tool</Button>
        <Button tone="primary" data-primary onClick={() => void navigate(`/jobs/${job}/scan?way=log`)}>
          Import a log
        </Button>
      </>
    );
  }
  return (
    <Button tone="primary" data-primary onClick={() => void navigate(`/jobs/${job}/decide`)}>
      Decide
    </Button>
  );
}

const CHOICE = 12;

/** What speaks for and against a suspect: the leading one, or the one that is picked. */
function ForAndAgainst({
  data,
  sourceOf: to,
}: {
  data: SuspectsView;
  sourceOf: (evidenceId: string) => string | undefined;
}) {
  const [picked, setPicked] = useState<string | undefined>();
  const { suspects } = data.ranking;
  const suspect = suspects.find((s) => s.faultId === picked) ?? suspects[0];
  if (!suspect) return null;
  return (
    <>
      <SelectField
        label="Suspect"
        value={suspect.faultId}
        onChange={(e) => setPicked(e.target.value)}
        className="max-w-xl"
      >
        {suspects.slice(0, CHOICE).map((s) => (
          <option key={s.faultId} value={s.faultId}>
            {s.title}, {percent(s.probability)}
          </option>
        ))}
      </SelectField>
      <div className="mt-2 grid gap-6 lg:grid-cols-2">
        <Weights title="Speaks for it" list={suspect.speaksFor} tone="text-action" most={7} sourceOf={to} />
        <div>
          <Weights title="Speaks against it" list={suspect.speaksAgainst} tone="text-clear" most={7} sourceOf={to} />
          {suspect.unexplained.length > 0 && (
            <p className="mt-2">Alone it leaves unexplained: {suspect.unexplained.join("; ")}.</p>
          )}
        </div>
      </div>
    </>
  );
}

/** Every check that may be made instead: those that tell something first, by what they cost in all. */
function OtherChecks({
  data,
  catalogue,
  money,
  onPick,
}: {
  data: SuspectsView;
  catalogue: CatalogueView | undefined;
  money: (n: number) => string;
  onPick: ((c: Check) => void) | undefined;
}) {
  const [words, setWords] = useState("");
  const ranked = new Set(data.advice.checks.map((c) => c.check.id));
  const rest = (catalogue?.checks ?? []).filter((c) => !ranked.has(c.id));
  const match = (title: string) => title.toLowerCase().includes(words.trim().toLowerCase());
  return (
    <div className="flex flex-col gap-3">
      <label className="flex max-w-xl flex-col">
        <span className="label">Find a check</span>
        <input
          className="min-h-11 border border-field bg-panel px-2"
          value={words}
          onChange={(e) => setWords(e.target.value)}
          type="search"
        />
      </label>
      <div className="grid gap-6 lg:grid-cols-2">
        <div>
          <h3 className="text-[17px]">Tells something, by likely total</h3>
          <ul>
            {data.advice.checks
              .filter((c) => match(c.check.title))
              .map((c) => (
                <CheckRow key={c.check.id} check={c.check} onPick={onPick}>
                  {c.minutes} min · {money(c.cost)} · {c.check.intrusiveness} · likely total {money(c.expectedCost)}
                </CheckRow>
              ))}
          </ul>
        </div>
        <div>
          <h3 className="text-[17px]">Tells little by now, or was made</h3>
          <ul>
            {rest
              .filter((c) => match(c.title))
              .slice(0, words.trim() ? 60 : 12)
              .map((c) => (
                <CheckRow key={c.id} check={c} onPick={onPick}>
                  {c.minutes} min at the place · {c.intrusiveness}
                </CheckRow>
              ))}
          </ul>
          {!words.trim() && rest.length > 12 && (
            <p className="text-quiet">and {rest.length - 12} more: type a word of it above.</p>
          )}
        </div>
      </div>
    </div>
  );
}

function CheckRow({
  check,
  children,
  onPick,
}: {
  check: Check;
  children: React.ReactNode;
  onPick: ((c: Check) => void) | undefined;
}) {
  return (
    <li className="flex items-center justify-between gap-3 border-b border-rule">
      <span className="min-w-0 py-1.5">
        {check.title}
        <span className="figures block text-[15px] text-quiet">{children}</span>
      </span>
      {onPick && (
        <Button tone="quiet" onClick={() => onPick(check)} aria-label={`Record: ${check.title}`}>
          Record
        </Button>
      )}
    </li>
  );
}

/** Checks and repairs that were made. */
function Made({ onTried }: { onTried: (() => void) | undefined }) {
  const { state } = useJob();
  const rows = [
    ...state.checks.map((c) => ({ id: c.id, title: c.body.title, outcome: c.body.outcomeLabel, note: c.body.note })),
    ...state.tried.map((t) => ({
      id: t.id,
      title: t.body.title,
      outcome: t.body.outcome === "better" ? "better, not gone" : "no change",
      note: t.body.note,
    })),
  ];
  return (
    <section aria-label="Checks made">
      <div className="flex flex-wrap items-center justify-between gap-3">
        <h2 className="text-xl">{rows.length === 0 ? "No check made yet" : "Checks made"}</h2>
        {onTried && <Button onClick={onTried}>Record a repair that was done</Button>}
      </div>
      <ul>
        {rows.map((r) => (
          <li key={r.id} className="flex justify-between gap-4 border-b border-rule py-1.5">
            <span>{r.title}</span>
            <span>
              <span className="label">{r.outcome}</span>
              {r.note && <span className="text-quiet"> · {r.note}</span>}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
