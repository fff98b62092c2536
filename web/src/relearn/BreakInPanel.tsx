import { BREAK_IN_HOTTEST_C, type BreakIn } from "@gearsense/core/bench";
import type { EntryBodies } from "@gearsense/core/job";
import { useState } from "react";
import { FormStatus } from "../job/FormStatus.tsx";
import { useJob } from "../job/job-context.tsx";
import { useEntryForm } from "../job/useEntryForm.ts";
import { useSettings } from "../settings/settings.tsx";
import { Button, Choice, Notice } from "../shared/controls.tsx";
import { NumberField } from "../shared/NumberField.tsx";

type Body = EntryBodies["break-in"];
type Seen = NonNullable<Body["inspected"]>;
const SOUND: Seen = { level: "ok", leaks: false, metal: false };

const HEAD: Record<BreakIn["stage"], { tone: "caution" | "clear" | "stop"; title: string }> = {
  gentle: { tone: "caution", title: "Drive it gently" },
  inspect: { tone: "caution", title: "Now inspect it" },
  normal: { tone: "clear", title: "Run in: drive it normally" },
  trouble: { tone: "stop", title: "The inspection found something" },
};

/** First kilometres of a fresh build: how far, how hard, what is still to be looked at. */
export function BreakInPanel({
  breakIn,
  mayWrite,
  onDrives,
}: {
  breakIn: BreakIn;
  mayWrite: boolean;
  onDrives: () => void;
}) {
  const { job } = useJob();
  const { show } = useSettings();
  const { wantedKm, drivenKm, stage, drives, gearsMissing, inspection, from } = breakIn;
  const form = useEntryForm<{ odometerKm: number | null; inspected: Seen | null; note: string }>(
    "break-in",
    "break-in.new",
    undefined,
    { odometerKm: null, inspected: null, note: "" },
  );
  const [typing, setTyping] = useState(false);
  const { value, set } = form;
  const hard = drives.filter((d) => d.tooMuch.length > 0);
  const left = Math.max(0, wantedKm - drivenKm);
  return (
    <section aria-label="Break-in" className="flex flex-col gap-3 border border-rule bg-panel p-3">
      <h2 className="text-xl">Break-in</h2>
      <Notice tone={HEAD[stage].tone} title={HEAD[stage].title}>
        {stage === "gentle" &&
          `${show(left, "distance", 0)} more: no full pedal, no towing, fluid under ${show(BREAK_IN_HOTTEST_C, "temperature", 0)}, all gears.`}
        {stage === "inspect" && "Level, leaks, the magnet, and the learned values."}
        {stage === "trouble" &&
          inspection &&
          [
            inspection.body.inspected?.level !== "ok" && `level ${inspection.body.inspected?.level}`,
            inspection.body.inspected?.leaks && "it leaks",
            inspection.body.inspected?.metal && "metal on the magnet",
          ]
            .filter(Boolean)
            .join("; ")}
      </Notice>
      <div>
        <div
          role="progressbar"
          aria-label="Kilometres of the break-in"
          aria-valuenow={Math.round(Math.min(drivenKm, wantedKm))}
          aria-valuemin={0}
          aria-valuemax={Math.round(wantedKm)}
          className="h-4 border border-rule bg-ground"
        >
          <div className="h-full bg-slate" style={{ width: `${Math.min(100, (100 * drivenKm) / wantedKm)}%` }} />
        </div>
        <p className="figures mt-1 text-quiet">
          {show(drivenKm, "distance", 0)} of {show(wantedKm, "distance", 0)},{" "}
          {from === "logs" ? "counted from the logs" : "by the odometer"}
        </p>
      </div>
      {hard.length > 0 && (
        <Notice
          tone="caution"
          title={`${hard.length === 1 ? "One drive was" : `${hard.length} drives were`} too hard for fresh linings`}
        >
          <ul>
            {hard.map((d) => (
              <li key={d.logId}>
                {show(d.km, "distance", 1)}:{" "}
                {[
                  d.tooMuch.includes("pedal") && `full pedal for ${show(d.fullPedalS ?? 0, "duration", 0)}`,
                  d.tooMuch.includes("heat") && `fluid ${show(d.hottestC ?? 0, "temperature", 0)}`,
                ]
                  .filter(Boolean)
                  .join(", ")}
              </li>
            ))}
          </ul>
        </Notice>
      )}
      {stage === "gentle" && gearsMissing.length > 0 && (
        <p>Not driven in these gears yet: {gearsMissing.join(", ")}.</p>
      )}
      {mayWrite &&
        (typing ? (
          <form
            noValidate
            aria-label="Odometer of the break-in"
            className="flex flex-col gap-3 border-t border-rule pt-3"
            onSubmit={(e) => {
              e.preventDefault();
              void form
                .submit({ odometerKm: value.odometerKm ?? Number.NaN, inspected: value.inspected, note: value.note })
                .then((stored) => stored && setTyping(false));
            }}
          >
            <FormStatus form={form} />
            <NumberField
              label="Odometer, km"
              hint={`${job.odometerKm} when the job was opened`}
              decimals={0}
              value={value.odometerKm}
              onChange={(odometerKm) => set({ odometerKm })}
              error={form.errors.odometerKm}
            />
            <label className="flex min-h-11 items-center gap-3">
              <input
                type="checkbox"
                className="size-6"
                checked={value.inspected !== null}
                onChange={(e) => set({ inspected: e.target.checked ? SOUND : null })}
              />
              It was inspected
            </label>
            {value.inspected && (
              <div className="flex flex-wrap gap-4">
                <Choice
                  label="Level"
                  value={value.inspected.level}
                  options={[
                    { value: "ok", label: "Right" },
                    { value: "low", label: "Low" },
                    { value: "high", label: "High" },
                  ]}
                  onChange={(level) => value.inspected && set({ inspected: { ...value.inspected, level } })}
                />
                {(
                  [
                    ["leaks", "It leaks"],
                    ["metal", "More than grey paste on the magnet"],
                  ] as const
                ).map(([id, label]) => (
                  <label key={id} className="flex min-h-11 items-center gap-3">
                    <input
                      type="checkbox"
                      className="size-6"
                      checked={value.inspected?.[id] ?? false}
                      onChange={(e) =>
                        value.inspected && set({ inspected: { ...value.inspected, [id]: e.target.checked } })
                      }
                    />
                    {label}
                  </label>
                ))}
              </div>
            )}
            <div className="flex justify-end gap-3">
              <Button tone="quiet" onClick={() => setTyping(false)}>
                Cancel
              </Button>
              <Button type="submit" disabled={form.pending}>
                Save
              </Button>
            </div>
          </form>
        ) : (
          <div className="flex flex-wrap justify-end gap-3">
            <Button tone="quiet" onClick={onDrives}>
              Drives …
            </Button>
            <Button onClick={() => setTyping(true)}>Odometer and inspection …</Button>
          </div>
        ))}
    </section>
  );
}
