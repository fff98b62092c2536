import type { SuspectsView } from "@gearsense/contract";
import { percent } from "@gearsense/core/quantity";
import clsx from "clsx";
import { ArrowDown, ArrowUp } from "lucide-react";
import { Popover } from "radix-ui";
import { Link } from "react-router";
import { useSuspects } from "../api/queries.ts";
import { useJob } from "./job-context.tsx";

type Suspect = SuspectsView["ranking"]["suspects"][number];

const SHOWN = 5;

/** Weight of evidence as a factor: ×6.2 speaks for, ÷1.6 against. */
export const factor = (ratio: number) => (ratio >= 1 ? `×${ratio.toFixed(1)}` : `÷${(1 / ratio).toFixed(1)}`);

/** The top suspects with their share, always in sight: what the last entry changed, and by how much. */
export function OddsStrip() {
  const { job, state } = useJob();
  const { data, error, isPlaceholderData: stale } = useSuspects(job.id);
  const cured = state.proof !== undefined;
  // what was tried since and did not cure is part of the odds again
  const tried = Math.max(0, ...state.tried.map((t) => t.seq));
  const repaired = state.work.some((w) => w.seq > tried);
  return (
    <aside
      aria-label="Odds"
      className="no-print hidden overflow-y-auto border-l border-rule bg-panel p-4 md:block md:w-[210px] lg:w-[256px]"
    >
      <h2 className="flex items-baseline justify-between gap-2 border-b border-rule pb-1.5 text-lg">
        {repaired ? "Odds before the repair" : "Odds"}
        <span role="status" className="text-sm font-medium text-quiet">
          {data && stale ? "recomputing …" : ""}
        </span>
      </h2>
      {repaired && (
        <p className={clsx("border-l-4 px-2 py-1 text-[15px]", cured ? "border-clear bg-clear-wash" : "border-rule")}>
          {cured
            ? `Cured: ${state.proof?.body.sentence ?? ""}`
            : "Repaired since. The proof will say whether that cured it; these odds are from before."}
        </p>
      )}
      {error && <p className="py-2 text-stop">{error.message}</p>}
      {!data && !error && <p className="py-2 text-quiet">Computing …</p>}
      {data && (
        <div aria-busy={stale}>
          <Strip data={data} />
        </div>
      )}
    </aside>
  );
}

function Strip({ data }: { data: SuspectsView }) {
  const { ranking, previous, movedBy, chart } = data;
  const [best] = ranking.explanations;
  if (data.evidence.length === 0)
    return <p className="py-2 text-quiet">Nothing is known yet. Odds appear with the first evidence.</p>;
  return (
    <>
      <ol>
        {ranking.suspects.slice(0, SHOWN).map((s) => (
          <li key={s.faultId} className="border-b border-rule py-2">
            <Row suspect={s} before={previous[s.faultId]} />
          </li>
        ))}
      </ol>
      {movedBy && <p className="pt-2 text-sm text-quiet">Last moved by: {movedBy.label}</p>}
      {best && best.titles.length > 1 && (
        <p className="pt-2 text-sm">
          <span className="label">Together:</span> {best.titles.join(" and ")} {percent(best.probability)}
        </p>
      )}
      {ranking.poorlyExplained && (
        <p className="mt-2 border-l-4 border-caution bg-caution-wash px-2 py-1 text-sm">
          Nothing here explains well all that was seen.
        </p>
      )}
      {chart.reading.cleared.length > 0 && (
        <div className="mt-3 border-t border-ink pt-2">
          <h3 className="text-[16px]">Cleared by driving</h3>
          <p className="label text-clear">{chart.reading.cleared.join(" · ")}</p>
        </div>
      )}
    </>
  );
}

function Row({ suspect, before }: { suspect: Suspect; before: number | undefined }) {
  const now = suspect.probability;
  const change = before === undefined ? 0 : Math.round((now - before) * 100);
  return (
    <Popover.Root>
      <Popover.Trigger className="block min-h-11 w-full text-left">
        <span className="flex items-baseline justify-between gap-2">
          <span className="label leading-5">{suspect.title}</span>
          <span className="figures shrink-0 text-xl whitespace-nowrap">{percent(now)}</span>
        </span>
        <span aria-hidden="true" className="relative mt-1 block h-2.5 bg-rule">
          <span className="moves absolute inset-y-0 left-0 bg-ink" style={{ width: `${now * 100}%` }} />
          {before !== undefined && (
            <span
              className="moves absolute -inset-y-0.5 w-0.5 bg-action"
              style={{ left: `${Math.min(99, before * 100)}%` }}
            />
          )}
        </span>
        {change !== 0 && (
          <span
            className={clsx(
              "figures mt-0.5 flex items-center gap-0.5 text-[14px]",
              change > 0 ? "text-action" : "text-clear",
            )}
          >
            {change > 0 ? (
              <ArrowUp aria-hidden="true" className="size-3.5" />
            ) : (
              <ArrowDown aria-hidden="true" className="size-3.5" />
            )}
            {Math.abs(change)} {Math.abs(change) === 1 ? "point" : "points"} with the last entry
          </span>
        )}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          aria-label={`${suspect.title}: for and against`}
          side="left"
          sideOffset={8}
          collisionPadding={12}
          className="z-40 w-[380px] max-w-[92vw] border-2 border-ink bg-panel p-4"
        >
          <h3 className="text-xl">{suspect.title}</h3>
          <Weights title="Speaks for" list={suspect.speaksFor} tone="text-action" />
          <Weights title="Speaks against" list={suspect.speaksAgainst} tone="text-clear" />
          {suspect.unexplained.length > 0 && (
            <p className="mt-2 text-sm">Leaves unexplained: {suspect.unexplained.join("; ")}</p>
          )}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function Sourced({ to, children }: { to: string | undefined; children: string }) {
  return to ? (
    <Link className="underline" to={to}>
      {children}
    </Link>
  ) : (
    <span>{children}</span>
  );
}

export function Weights({
  title,
  list,
  tone,
  most = 6,
  sourceOf,
}: {
  title: string;
  list: Suspect["speaksFor"];
  tone: string;
  most?: number;
  /** address of what a weight rests on */
  sourceOf?: ((evidenceId: string) => string | undefined) | undefined;
}) {
  return (
    <section className="mt-2">
      <h4 className={clsx("label text-[17px]", tone)}>{title}</h4>
      {list.length === 0 && <p className="text-sm text-quiet">Nothing.</p>}
      <ul>
        {list.slice(0, most).map((w) => (
          <li key={w.evidenceId} className="border-b border-rule py-1">
            <span className="flex justify-between gap-3">
              <Sourced to={sourceOf?.(w.evidenceId)}>{w.label}</Sourced>
              <span className="figures">{factor(w.ratio)}</span>
            </span>
            {w.why && <span className="block text-sm text-quiet">{w.why}</span>}
          </li>
        ))}
      </ul>
      {list.length > most && <p className="pt-1 text-sm text-quiet">and {list.length - most} smaller</p>}
    </section>
  );
}
