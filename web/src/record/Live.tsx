import type { RecordingView } from "@gearsense/contract";
import { conditionInWords, type LiveState } from "@gearsense/core/drive";
import clsx from "clsx";
import { newKey } from "../api/client.ts";
import type { useRecorder } from "../api/queries.ts";
import { useShortcuts } from "../keys/shortcuts.tsx";
import { CoverageGrid } from "../scan/CoverageGrid.tsx";
import { useSettings } from "../settings/settings.tsx";
import { Notice } from "../shared/controls.tsx";
import { DrivePlan } from "./DrivePlan.tsx";

type Mark = ReturnType<typeof useRecorder>["mark"];
const NAMES = ["slip", "flare", "bang", "shudder", "noise", "no drive"];
/** Of the gear ribbon, s. */
const SHOWN_S = 120;
const STALE_S = 2;

const clock = (s: number) => `${Math.floor(s / 60)}:${String(Math.floor(s % 60)).padStart(2, "0")}`;

/** The drive while it is driven: for the second person, large, with one key. */
export function Live({ recording, mark }: { recording: RecordingView; mark: Mark }) {
  const { show } = useSettings();
  const { live, state, marks } = recording;
  const running = state === "open";
  const drive = live.drive as LiveState | null;
  const felt = () => mark.mutate({ id: newKey(), name: "", feltAtMs: performance.now() });
  // the key of a headset does it too, where the browser hands it on
  useShortcuts(
    running ? [" ", "MediaPlayPause"].map((key) => ({ key, label: "Felt it now", group: "Recording", run: felt })) : [],
  );
  const of = (c: string) => live.values[c];
  const figure = (c: string, quantity: Parameters<typeof show>[1]) => {
    const v = of(c);
    return v === undefined ? "–" : show(v, quantity, 0);
  };
  const silent = running && live.missed > 0 && live.rateHz === 0;
  const waiting = mark.isPending && mark.failureCount > 0;
  return (
    <>
      {silent && (
        <Notice tone="caution" live title="Nothing comes over the link">
          {live.lastMiss} What is missing stays a gap. Ignition on?
        </Notice>
      )}
      {live.clockJumps > 0 && (
        <Notice tone="plain">
          The clock of the link was set {live.clockJumps}× on the way; the time of this side bridged it.
        </Notice>
      )}
      <dl aria-label="Now" className="grid grid-cols-2 gap-3 sm:grid-cols-4">
        <Figure label="Gear" value={drive?.gear ?? "–"} />
        <Figure label="Output" value={figure("output_rpm", "speed-rpm")} />
        <Figure label="Engine" value={figure("engine_rpm", "speed-rpm")} />
        <Figure
          label="Fluid"
          value={figure("fluid_c", "temperature")}
          hot={drive?.warnings.some((w) => w.kind === "hot") ?? false}
        />
      </dl>
      {drive && <Ribbon drive={drive} />}
      {drive?.warnings.map((w) => (
        <Notice key={`${w.kind} ${w.gear ?? ""}`} tone={w.kind === "hot" ? "stop" : "caution"} live>
          {w.kind === "hot"
            ? `Fluid hot: ${show(w.value, "temperature", 0)} at ${clock(w.timeS)}. Drive gently, or stop and let it cool.`
            : `Gear ${w.gear} slips: ${show(w.value, "speed-rpm", 0)} at ${clock(w.timeS)}. Enough of it is recorded; do not hold it there.`}
        </Notice>
      ))}
      <button
        type="button"
        disabled={!running}
        onClick={felt}
        className="min-h-32 w-full border-2 border-ink bg-slate font-[inherit] text-3xl font-semibold text-on-slate disabled:opacity-50"
      >
        Felt it now
      </button>
      <p className="text-sm text-quiet" aria-live="polite">
        {clock(live.timeS)} recorded, {recording.rows} answers, {live.rateHz.toFixed(1)} a second of each channel
        {live.missed > 0 && `, ${live.missed} questions not answered`}. {recording.channels.length} channels: fewer are
        read faster. Space or a headset button marks too.
        {waiting && " A mark waits for the network and keeps its time."}
      </p>
      {mark.error && (
        <Notice tone="stop" live>
          {mark.error.message}
        </Notice>
      )}
      {marks.length > 0 && (
        <section aria-label="Marks" className="border border-rule bg-panel p-3">
          <h2 className="text-lg">Felt</h2>
          <ul>
            {marks.map((m) => (
              <li key={m.id} className="flex flex-wrap items-center gap-2 border-b border-rule py-1 last:border-0">
                <span className="figures w-16">{clock(m.timeS)}</span>
                {NAMES.map((name) => (
                  <button
                    key={name}
                    type="button"
                    aria-label={`${name} at ${clock(m.timeS)}`}
                    aria-pressed={m.name === name}
                    onClick={() =>
                      mark.mutate({ id: m.id, name: m.name === name ? "" : name, feltAtMs: performance.now() })
                    }
                    className="min-h-11 border border-field bg-panel px-3 aria-pressed:bg-slate aria-pressed:text-on-slate"
                  >
                    {name}
                  </button>
                ))}
              </li>
            ))}
          </ul>
        </section>
      )}
      {drive?.enough && (
        <Notice tone="clear" live title="Enough driven">
          The complaint’s own conditions and those of the earlier findings are met. End and keep it, or drive on.
        </Notice>
      )}
      {drive && drive.companion.length > 0 && <Companion met={drive.companion} />}
      {drive && (
        <section aria-label="Drive this next" className="border border-rule bg-panel p-3">
          <h2 className="text-lg">Drive this next</h2>
          <DrivePlan plan={drive.plan} />
        </section>
      )}
      {drive && <CoverageGrid coverage={drive.coverage} next={false} />}
      {running && live.timeS > STALE_S && drive?.gear === undefined && (
        <p className="text-quiet">
          Without the commanded gear nothing can be said of what was driven until the log is kept.
        </p>
      )}
    </>
  );
}

/** The same conditions as before the repair, filling as they are met again. */
function Companion({ met }: { met: LiveState["companion"] }) {
  const { show } = useSettings();
  return (
    <section aria-label="The same conditions as before" className="border border-rule bg-panel p-3">
      <h2 className="text-lg">The same conditions as before the repair</h2>
      <ul>
        {met.map(({ condition, driven }) => {
          const enough = driven >= condition.needed;
          const figure = (n: number) => (condition.where.includes("-") ? `${Math.floor(n)}×` : show(n, "duration", 0));
          const words = conditionInWords(condition);
          return (
            <li key={words} className="flex min-h-9 items-center gap-3 border-b border-rule last:border-0">
              <span
                aria-hidden="true"
                className={clsx("size-4 border", enough ? "border-clear bg-clear" : "border-field")}
              />
              <span className="min-w-0 flex-1">{words}</span>
              <span className="figures">
                {figure(Math.min(driven, condition.needed))} of {figure(Math.ceil(condition.needed))}
                <span className="sr-only">{enough ? ", enough" : ", more wanted"}</span>
              </span>
            </li>
          );
        })}
      </ul>
    </section>
  );
}

function Figure({ label, value, hot = false }: { label: string; value: string; hot?: boolean }) {
  return (
    <div className={clsx("border border-rule p-2", hot ? "bg-stop-wash" : "bg-panel")}>
      <dt className="label text-quiet">{label}</dt>
      <dd className="figures text-4xl leading-10">{value}</dd>
    </div>
  );
}

/** Gears of the last two minutes. */
function Ribbon({ drive }: { drive: LiveState }) {
  const fromS = Math.max(0, drive.timeS - SHOWN_S);
  const wide = Math.max(1, Math.min(SHOWN_S, drive.timeS));
  const spans = drive.ribbon.filter((s) => s.endS > fromS);
  return (
    <div
      role="img"
      aria-label={`Gears of the last ${Math.round(wide)} s: ${spans.map((s) => s.gear).join(", ")}`}
      className="relative h-9 border border-rule bg-ground"
    >
      {spans.map((s) => {
        const left = ((Math.max(s.startS, fromS) - fromS) / wide) * 100;
        const width = ((s.endS - Math.max(s.startS, fromS)) / wide) * 100;
        return (
          <span
            key={s.startS}
            className="figures absolute inset-y-0 flex items-center justify-center overflow-hidden border-r border-ground bg-slate text-on-slate"
            style={{ left: `${left}%`, width: `${width}%` }}
          >
            {width > 2 ? s.gear : ""}
          </span>
        );
      })}
    </div>
  );
}
