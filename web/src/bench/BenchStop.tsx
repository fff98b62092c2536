import type { BenchView } from "@gearsense/contract";
import {
  aftercareOf,
  type BenchPlace,
  benchPlaces,
  causeMissing,
  chosenParts,
  placeOf,
  placeState,
} from "@gearsense/core/bench";
import { percent } from "@gearsense/core/quantity";
import type { Unit } from "@gearsense/core/unit";
import clsx from "clsx";
import { ArrowLeft, ArrowRight, Download, Ruler } from "lucide-react";
import { useState } from "react";
import { Link, useSearchParams } from "react-router";
import { urlOf } from "../api/client.ts";
import { useBench, useKnowledge, useSuspects } from "../api/queries.ts";
import { useJob } from "../job/job-context.tsx";
import { useSettings } from "../settings/settings.tsx";
import { Button, Heading, Notice } from "../shared/controls.tsx";
import { useMoney } from "../shared/useMoney.ts";
import { CausePanel } from "./CausePanel.tsx";
import { Instruments } from "./Instruments.tsx";
import { PlaceForm } from "./PlaceForm.tsx";

const LINK = "label inline-flex min-h-11 items-center gap-2 rounded-sm border border-field px-3 hover:border-ink";
const GROUPS: readonly (readonly [string, readonly BenchPlace["kind"][]])[] = [
  ["Taken apart", ["teardown"]],
  ["Packs as they came out", ["pack"]],
  ["Clutches and forks", ["dual-clutch"]],
  ["Packs as they go in", ["pack-in", "end-play"]],
  ["Converter", ["converter-open", "converter-fit", "converter-choice"]],
  ["Hydraulics", ["pressure", "air", "valve-body", "cooler"]],
  ["Electrical", ["electrical"]],
  ["The cause", ["cause"]],
];

/** The unit on the bench, by its subassemblies. */
export default function BenchStop() {
  const { job, state, mayEdit } = useJob();
  const { data: knowledge } = useKnowledge(job.unitId);
  const { data: bench, error } = useBench(job.id);
  const { system } = useSettings();
  const [search] = useSearchParams();
  const [tools, setTools] = useState(false);
  if (!knowledge)
    return (
      <p role="status" className="text-quiet">
        Loading the bench …
      </p>
    );
  const places = benchPlaces(job.unit as Unit, knowledge.bench);
  const place = placeOf(places, search.get("at") ?? "");
  const at = (id: string) => `/jobs/${job.id}/bench?at=${encodeURIComponent(id)}`;
  if (place) {
    const i = places.indexOf(place);
    const [before, after] = [places[i - 1], places[i + 1]];
    return (
      <div>
        <Heading
          title={place.title}
          actions={
            <>
              <Link to={`/jobs/${job.id}/bench`} className={LINK}>
                All places
              </Link>
              {before && (
                <Link to={at(before.id)} className={LINK} aria-label={`Before: ${before.title}`}>
                  <ArrowLeft aria-hidden="true" className="size-5" />
                </Link>
              )}
              {after && (
                <Link to={at(after.id)} className={LINK} aria-label={`Next: ${after.title}`}>
                  <ArrowRight aria-hidden="true" className="size-5" />
                </Link>
              )}
            </>
          }
        />
        {place.kind === "cause" ? (
          <CausePanel bench={bench} knowledge={knowledge.bench} />
        ) : (
          <PlaceForm key={place.id} place={place} knowledge={knowledge} bench={bench} />
        )}
      </div>
    );
  }
  return (
    <div>
      <Heading
        title="Bench"
        actions={
          <>
            {state.bench.length > 0 && (
              <>
                <a href={urlOf("buildPdf", { jobId: job.id }, { system })} className={LINK} download>
                  <Download aria-hidden="true" className="size-5" />
                  Build record, PDF
                </a>
                <a href={urlOf("buildFile", { jobId: job.id })} className={LINK} download>
                  <Download aria-hidden="true" className="size-5" />
                  JSON
                </a>
              </>
            )}
            <Button onClick={() => setTools(true)}>
              <Ruler aria-hidden="true" className="size-5" />
              Instruments
            </Button>
          </>
        }
      >
        {job.unitName}: measure, choose, fit, find the cause.
      </Heading>
      <div className="flex flex-col gap-4">
        {error && <Notice tone="stop">{error.message}</Notice>}
        <Overview bench={bench} />
        {GROUPS.map(([title, kinds]) => {
          const list = places.filter((p) => kinds.includes(p.kind));
          return list.length === 0 ? null : (
            <section key={title} aria-label={title}>
              <h2 className="pb-1 text-lg">{title}</h2>
              <ul className="grid gap-2 sm:grid-cols-2 xl:grid-cols-3">
                {list.map((p) => (
                  <li key={p.id}>
                    <PlaceCard place={p} to={at(p.id)} bench={bench} />
                  </li>
                ))}
              </ul>
            </section>
          );
        })}
      </div>
      {tools && <Instruments mayEdit={mayEdit} onClose={() => setTools(false)} />}
    </div>
  );
}

const WORDS = { pass: "in", fail: "out", open: "open" } as const;
const MARKS = {
  pass: "border-clear bg-clear-wash",
  fail: "border-stop bg-stop-wash",
  open: "border-caution bg-caution-wash",
} as const;

function PlaceCard({ place, to, bench }: { place: BenchPlace; to: string; bench: BenchView | undefined }) {
  const { job, state } = useJob();
  const { data: suspects } = useSuspects(job.id);
  const { accused = [], cleared = [] } = suspects?.chart.reading ?? {};
  const suspect = place.kind === "pack" && accused.includes(place.about ?? "") && !cleared.includes(place.about ?? "");
  const stored = state.bench.find((e) => e.body.place === place.id);
  const judged = stored && place.kind !== "cause" ? placeState(stored.body) : undefined;
  const figure = !stored
    ? place.kind === "cause" && bench && bench.signs.length > 0 && bench.causes[0]
      ? `${bench.causes[0].title} ${percent(bench.causes[0].probability)}`
      : suspect
        ? "the drive accuses it"
        : ""
    : place.kind === "cause"
      ? (stored.body.looks[0]?.label ?? "")
      : [
          stored.body.values.length > 0 ? `${stored.body.values.length} measured` : "",
          stored.body.looks.length > 0 ? `${stored.body.looks.length} looked at` : "",
          ...stored.body.chosen.map((c) => c.name.split(",")[0] ?? ""),
        ]
          .filter(Boolean)
          .join(" · ");
  return (
    <Link
      to={to}
      className={clsx(
        "flex min-h-[60px] flex-col justify-center rounded-sm border border-l-4 px-3 py-1.5 hover:border-ink",
        judged ? MARKS[judged] : stored ? "border-clear bg-clear-wash" : "border-rule bg-panel",
      )}
    >
      <span className="flex items-baseline justify-between gap-2">
        <span className="label leading-5">{place.title.replace(/, as it (came out|goes in)$/, "")}</span>
        <span className="label text-[15px]">{judged ? WORDS[judged] : ""}</span>
      </span>
      {figure && <span className="figures text-[15px] leading-5 text-quiet">{figure}</span>}
    </Link>
  );
}

/** What does not go together, what was chosen, what broke it, what follows. */
function Overview({ bench }: { bench: BenchView | undefined }) {
  const { job, state } = useJob();
  const { show } = useSettings();
  const money = useMoney();
  const parts = chosenParts(state);
  const after = aftercareOf(job.unit as Unit, state);
  return (
    <>
      {bench?.contradictions.map((c) => (
        <Notice key={c.id} tone="caution" title={c.text}>
          {c.settle}
        </Notice>
      ))}
      {causeMissing(state) && (
        <Notice
          tone="caution"
          title="Something failed, and nobody has said what broke it"
          actions={
            <Link to={`/jobs/${job.id}/bench?at=cause`} className={LINK}>
              What broke it
            </Link>
          }
        >
          The unit is not handed over before that has an answer, or is named unknown.
        </Notice>
      )}
      {(parts.length > 0 || after.breakInKm !== undefined) && (
        <section aria-label="Chosen" className="border border-rule bg-panel px-3 py-2">
          {parts.length > 0 && (
            <p>
              <span className="label">Chosen:</span>{" "}
              {parts.map((p) => `${p.quantity} × ${p.name} ${money(p.costEach * p.quantity)}`).join("; ")}
            </p>
          )}
          {after.breakInKm !== undefined && (
            <p>
              <span className="label">After it:</span> driven gently for {show(after.breakInKm, "distance")}
              {after.watch.length > 0 ? `. Watch: ${after.watch.join("; ")}.` : "."}
            </p>
          )}
        </section>
      )}
    </>
  );
}
