import type { BenchView } from "@gearsense/contract";
import {
  compareConverters,
  converterSays,
  curveProblem,
  factorSays,
  fitConverter,
  fitDrawing,
  type TorqueCurve,
} from "@gearsense/core/bench";
import { threadOf } from "@gearsense/core/fasteners";
import type { EntryBodies } from "@gearsense/core/job";
import type { BenchKnowledge } from "@gearsense/core/knowledge";
import { surePercent } from "@gearsense/core/measure";
import { fitMeasured } from "@gearsense/core/report";
import { type Converter, stallFactor, type Unit } from "@gearsense/core/unit";
import { useJob } from "../job/job-context.tsx";
import { useSettings } from "../settings/settings.tsx";
import { Cautions } from "../shared/Caution.tsx";
import { Button, Notice, TextArea } from "../shared/controls.tsx";
import { PlainTable } from "../shared/PlainTable.tsx";
import { shownUnit, shownValue } from "./bench-form.ts";
import { StackUp } from "./StackUp.tsx";

type Body = EntryBodies["bench"];
const TONES = { fits: "clear", close: "caution", "does-not": "stop" } as const;
const NAMES = {
  "pull-up": "Pull-up",
  pump: "Pump drive",
  "pilot-length": "Pilot, step",
  "pilot-engaged": "Pilot, engaged",
  "pilot-diameter": "Pilot, bore",
  "bolt-circle": "Bolt circle",
  "bolt-length": "Bolt length",
} as const;

/** How the converter fits between engine and unit, drawn and in words. */
export function FitPanel({ body }: { body: Body }) {
  const { job } = useJob();
  const unit = job.unit as Unit;
  const { system } = useSettings();
  if (!unit.converter?.fit) return null;
  const bolt = unit.fasteners?.find((f) => f.id === "converter");
  const fitted = fitConverter(unit.converter, fitMeasured(body.values), bolt && threadOf(bolt.thread)?.diameterMm);
  const [pull] = fitted.lines;
  if (!pull) return null;
  const mm = (x: number) => shownValue(x, "mm", system).toFixed(system === "imperial" ? 3 : 2);
  const unmeasured = fitted.parts.filter((p) => p.fromFile).map((p) => p.name.toLowerCase());
  return (
    <div className="flex flex-col gap-3">
      <Notice tone={TONES[pull.state]} title={pull.text} live>
        {mm(pull.sum.mm)} {shownUnit("mm", system)}; at worst ± {mm(pull.sum.worstMm)}, by chance ± {mm(pull.sum.rssMm)}{" "}
        (19 of 20). Allowed {mm(pull.windowMm[0] ?? 0)} to {mm(pull.windowMm[1] ?? 0)}: {surePercent(pull.inside)}{" "}
        inside.
        {unmeasured.length > 0 && ` Not measured, taken from the unit file: ${unmeasured.join(", ")}.`}
      </Notice>
      <StackUp drawing={fitDrawing(fitted.parts, pull.sum.mm)} />
      <PlainTable
        caption="Fit"
        columns={["What", "Comes to", "Inside", "Says"]}
        figures={[1, 2]}
        rows={fitted.lines.slice(1).map((l) => [
          NAMES[l.id],
          `${mm(l.sum.mm)} ± ${mm(l.sum.rssMm)}`,
          surePercent(l.inside),
          <span key="t" className={l.state === "does-not" ? "font-semibold text-stop" : ""}>
            {l.text}
          </span>,
        ])}
      />
      {bolt && (
        <p className="text-quiet">
          Converter bolts by the unit file: {bolt.count} × {bolt.thread}, {bolt.lengthMm} mm.
        </p>
      )}
    </div>
  );
}

/** The new converter as it is rated. @returns undefined until all three numbers are there */
export function newConverter(old: Converter, body: Body): Converter | undefined {
  const of = (id: string) => body.values.find((v) => v.id === id)?.readings[0];
  const [stall, at, ratio] = [of("stall"), of("at"), of("ratio")];
  return stall && at && ratio ? { ...old, stallRpm: stall, stallTorqueNm: at, stallTorqueRatio: ratio } : undefined;
}

const FACTOR = {
  "as-predicted": ["clear", "The log bears the new converter out"],
  "as-before": ["stop", "The log still shows the old converter"],
  between: ["caution", "The log lies between the old and the new converter"],
  other: ["caution", "The log shows neither the old nor the new converter"],
} as const;

/** Old against new converter behind this engine, and what a later log says of it. */
export function ChoicePanel({
  body,
  curveText,
  onCurve,
  problem,
  bench,
  mayEdit,
}: {
  body: Body;
  curveText: string;
  onCurve: (text: string) => void;
  problem: string | undefined;
  bench: BenchView | undefined;
  mayEdit: boolean;
}) {
  const { job } = useJob();
  const { system, show } = useSettings();
  const { converter } = job.unit as Unit;
  if (!converter?.stallTorqueNm) return null;
  const curve: TorqueCurve = body.curve ?? [];
  const wrong = problem ?? (curve.length > 0 ? curveProblem(curve) : undefined);
  const fresh = newConverter(converter, body);
  const change = !wrong && curve.length > 0 && fresh ? compareConverters(curve, converter, fresh) : undefined;
  const logged = bench?.factor.after;
  const before = bench?.factor.before;
  // a vehicle’s converter and the torque that its engine reports are both a little off: what the log before showed takes that out
  const off = change && before ? before.factor / change.old.factor : 1;
  const predicted = change && change.fresh.factor * off;
  const was = change && change.old.factor * off;
  const says =
    logged && predicted !== undefined && was !== undefined ? factorSays(logged.factor, predicted, was) : undefined;
  const rpm = (x: number) => `${Math.round(x)} rpm`;
  const row = (name: string, of: (c: NonNullable<typeof change>["old"]) => string) =>
    change ? [[name, of(change.old), of(change.fresh)]] : [];
  return (
    <div className="flex flex-col gap-3">
      <TextArea
        label={`Engine’s full-load torque: rpm and ${shownUnit("N·m", system)}, one pair a line`}
        rows={5}
        value={curveText}
        error={wrong}
        disabled={!mayEdit}
        onChange={(e) => onCurve(e.target.value)}
      />
      {bench?.curve && mayEdit && (
        <div className="flex flex-wrap items-center gap-3">
          <Button
            onClick={() =>
              onCurve(
                (bench.curve ?? []).map(([n, t]) => `${n} ${Math.round(shownValue(t, "N·m", system))}`).join("\n"),
              )
            }
          >
            Take the highest torques of the log
          </Button>
          <p className="text-sm text-quiet">Full load only where it was driven at full pedal.</p>
        </div>
      )}
      <p className="text-quiet">
        Fitted now: stalls at {rpm(converter.stallRpm)} with {show(converter.stallTorqueNm, "torque")}, K{" "}
        {stallFactor(converter).toFixed(0)} rpm/√N·m.
        {before && ` The log before shows K ${before.factor.toFixed(0)}.`}
      </p>
      {change && (
        <>
          <PlainTable
            caption="Old against new converter"
            columns={["Behind this engine", "Old", "New"]}
            figures={[1, 2]}
            rows={[
              ...row("Stall speed", (c) => rpm(c.stallRpm)),
              ...row("Torque at the turbine from rest", (c) => show(c.launchNm, "torque")),
              ...row("Heat at stall", (c) => `${(c.stallHeatW / 1000).toFixed(0)} kW`),
              ...row("Slip, open, at a steady cruise", (c) => rpm(c.cruiseSlipRpm)),
              ...row("Heat there", (c) => `${(c.cruiseHeatW / 1000).toFixed(1)} kW`),
            ]}
          />
          <ul aria-label="What changes" className="list-disc pl-5">
            {change.says.map((s) => (
              <li key={s}>{s}</li>
            ))}
          </ul>
          {says && logged && predicted !== undefined && was !== undefined ? (
            <Notice tone={FACTOR[says][0]} title={FACTOR[says][1]}>
              K {logged.factor.toFixed(0)} rpm/√N·m{" "}
              {logged.from === "stall-test" ? "at a stall test" : "in its steady pulls"}; predicted{" "}
              {predicted.toFixed(0)}, before {was.toFixed(0)}
              {before ? ", both as this vehicle’s log before shows them" : ""}. That is a stall speed of{" "}
              {rpm((change.fresh.stallRpm * logged.factor) / predicted)} behind this engine.
            </Notice>
          ) : (
            <>
              <p className="text-quiet">
                Proved later by a log after the work: steady pulls with engine torque recorded, or a stall test where
                the maker allows one.
              </p>
              <Cautions names={["stall-test"]} />
            </>
          )}
        </>
      )}
    </div>
  );
}

/** What each found thing did to the vehicle, and what breaks it so. */
export function OpenedPanel({ knowledge, body }: { knowledge: BenchKnowledge; body: Body }) {
  const says = converterSays(knowledge, body);
  if (says.length === 0) return null;
  return (
    <PlainTable
      caption="What was found in the converter"
      columns={["Found", "What it did", "What breaks it so"]}
      rows={says.map((s) => [s.found, s.did, s.broke])}
    />
  );
}
