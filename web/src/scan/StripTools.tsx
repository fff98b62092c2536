import { ArrowDown, ArrowUp, SlidersHorizontal } from "lucide-react";
import { useState } from "react";
import { useJob } from "../job/job-context.tsx";
import { Button } from "../shared/controls.tsx";
import { Modal } from "../shared/Modal.tsx";
import type { Alignment } from "./alignments.ts";
import { offeredStrips, PRESETS, type PresetName } from "./trace/strips.ts";
import type { StripData } from "./worker/messages.ts";

const KEPT = "gearsense.strips";
const MOST_STRIPS = 8;

function kept(): readonly string[] {
  try {
    const list: unknown = JSON.parse(localStorage.getItem(KEPT) ?? "null");
    return Array.isArray(list) && list.every((x) => typeof x === "string") && list.length > 0 ? list : PRESETS.overview;
  } catch {
    return PRESETS.overview;
  }
}

/** Which strips the person looks at, in their order; kept on this device. */
export function useStripChoice() {
  const [chosen, setChosen] = useState<readonly string[]>(kept);
  return {
    chosen,
    choose: (next: readonly string[]) => {
      localStorage.setItem(KEPT, JSON.stringify(next));
      setChosen(next);
    },
  };
}
export type StripChoice = ReturnType<typeof useStripChoice>;

/** Another log of the job, laid over this one. */
export interface Overlay {
  readonly logId: string;
  readonly align: string;
}

const selectClass = "min-h-11 border border-field bg-panel px-2";

/** Presets for a question, the choice of strips, and another log laid over. */
export function StripTools({
  strips,
  data,
  logId,
  overlay,
  setOverlay,
  ways,
  loading,
}: {
  strips: StripChoice;
  data: readonly StripData[];
  logId: string;
  overlay: Overlay | undefined;
  setOverlay: (o: Overlay | undefined) => void;
  ways: readonly Alignment[];
  loading: boolean;
}) {
  const { state } = useJob();
  const [open, setOpen] = useState(false);
  const preset = (Object.keys(PRESETS) as PresetName[]).find((p) => PRESETS[p].join() === strips.chosen.join());
  const others = state.logs.filter(
    (l) => l.body.logId !== logId && state.analyses.some((a) => a.body.logId === l.body.logId),
  );
  return (
    <div className="flex flex-wrap items-end gap-3">
      <label className="flex flex-col">
        <span className="label text-sm">Question</span>
        <select
          className={selectClass}
          value={preset ?? ""}
          onChange={(e) => strips.choose(PRESETS[e.target.value as PresetName])}
        >
          {!preset && <option value="">own choice</option>}
          {(Object.keys(PRESETS) as PresetName[]).map((p) => (
            <option key={p} value={p}>
              {p}
            </option>
          ))}
        </select>
      </label>
      <Button onClick={() => setOpen(true)}>
        <SlidersHorizontal aria-hidden="true" className="size-5" />
        Strips
      </Button>
      {others.length > 0 && (
        <label className="flex flex-col">
          <span className="label text-sm">Compare with</span>
          <select
            className={selectClass}
            value={overlay?.logId ?? ""}
            onChange={(e) => setOverlay(e.target.value ? { logId: e.target.value, align: "start" } : undefined)}
          >
            <option value="">no other log</option>
            {others.map((l) => (
              <option key={l.id} value={l.body.logId}>
                {l.body.role} · {l.body.label ? `${l.body.label}, ` : ""}
                {l.body.fileName}
              </option>
            ))}
          </select>
        </label>
      )}
      {overlay && (
        <label className="flex flex-col">
          <span className="label text-sm">{loading ? "reading it …" : "Aligned on"}</span>
          <select
            className={selectClass}
            value={overlay.align}
            onChange={(e) => setOverlay({ ...overlay, align: e.target.value })}
          >
            {ways.map((w) => (
              <option key={w.id} value={w.id}>
                {w.label}
              </option>
            ))}
          </select>
        </label>
      )}
      <StripDialog open={open} onClose={() => setOpen(false)} strips={strips} data={data} />
    </div>
  );
}

function StripDialog({
  open,
  onClose,
  strips,
  data,
}: {
  open: boolean;
  onClose: () => void;
  strips: StripChoice;
  data: readonly StripData[];
}) {
  const offered = offeredStrips(data);
  const chosen = strips.chosen.filter((id) => offered.some((o) => o.id === id));
  const move = (at: number, by: number) => {
    const next = [...chosen];
    const [id] = next.splice(at, 1);
    if (id) next.splice(at + by, 0, id);
    strips.choose(next);
  };
  const rest = offered.filter((o) => !chosen.includes(o.id));
  return (
    <Modal open={open} onClose={onClose} title="Strips, from the top">
      <ol className="flex flex-col gap-1">
        {chosen.map((id, i) => {
          const label = offered.find((o) => o.id === id)?.label ?? id;
          return (
            <li key={id} className="flex items-center gap-2 border-b border-rule">
              <label className="flex min-h-11 flex-1 items-center gap-2">
                <input
                  type="checkbox"
                  className="size-5"
                  checked
                  disabled={chosen.length === 1}
                  onChange={() => strips.choose(chosen.filter((x) => x !== id))}
                />
                {label}
              </label>
              <Button tone="quiet" aria-label={`${label} up`} disabled={i === 0} onClick={() => move(i, -1)}>
                <ArrowUp aria-hidden="true" className="size-5" />
              </Button>
              <Button
                tone="quiet"
                aria-label={`${label} down`}
                disabled={i === chosen.length - 1}
                onClick={() => move(i, 1)}
              >
                <ArrowDown aria-hidden="true" className="size-5" />
              </Button>
            </li>
          );
        })}
        {rest.map((o) => (
          <li key={o.id} className="border-b border-rule">
            <label className="flex min-h-11 items-center gap-2">
              <input
                type="checkbox"
                className="size-5"
                checked={false}
                disabled={chosen.length >= MOST_STRIPS}
                onChange={() => strips.choose([...chosen, o.id])}
              />
              {o.label}
            </label>
          </li>
        ))}
      </ol>
      {chosen.length >= MOST_STRIPS && (
        <p className="mt-2 text-quiet">{MOST_STRIPS} strips are as many as can be read.</p>
      )}
    </Modal>
  );
}
