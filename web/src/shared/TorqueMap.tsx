import { orderOf, passesOf, torqueUnits, wrenchSetting } from "@gearsense/core/fasteners";
import { numberIn } from "@gearsense/core/procedure";
import type { Fastener } from "@gearsense/core/unit";
import clsx from "clsx";
import { useState } from "react";
import { Button, TextField } from "./controls.tsx";

const RADIUS = 17;
const PAD = 26;

/** Bolts where they sit, seen as the unit file says, numbered in the order in which they are tightened. */
export function BoltMap({
  bolt,
  done,
  next,
}: {
  bolt: Fastener;
  /** how many of the order are tightened in this pass */
  done?: number;
  /** the bolt that is next, by its index */
  next?: number | undefined;
}) {
  const found = orderOf(bolt);
  const places = bolt.positionsMm;
  if (!found || !places || places.length < 3) return null;
  const turn = new Map(found.order.map((at, i) => [at, i]));
  const xs = places.map(([x]) => x);
  const ys = places.map(([, y]) => y);
  const [left, right, top, bottom] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
  return (
    <svg
      role="img"
      aria-label={`Order of tightening: ${found.by === "maker" ? "by the unit file" : "crosswise, by their places"}`}
      viewBox={`${left - PAD} ${top - PAD} ${right - left + 2 * PAD} ${bottom - top + 2 * PAD}`}
      className={clsx("mt-2 w-full", done === undefined ? "max-h-48" : "max-h-72")}
    >
      <rect
        x={left}
        y={top}
        width={right - left}
        height={bottom - top}
        className="fill-ground stroke-rule"
        strokeWidth="2"
      />
      {places.map(([x, y], i) => {
        const at = turn.get(i) ?? 0;
        const tight = done !== undefined && at < done;
        return (
          <g key={`${x},${y}`}>
            <circle
              cx={x}
              cy={y}
              r={i === next ? RADIUS + 4 : RADIUS}
              className={clsx(
                tight ? "fill-clear stroke-clear" : i === next ? "fill-action stroke-ink" : "fill-panel stroke-ink",
              )}
              strokeWidth={i === next ? 4 : 2}
            />
            <text
              x={x}
              y={y + 6}
              textAnchor="middle"
              fontSize="18"
              className={clsx("figures", tight || i === next ? "fill-on-action" : "fill-ink")}
            >
              {at + 1}
            </text>
          </g>
        );
      })}
    </svg>
  );
}

/** Bolts tightened pass by pass, each tapped as it clicks; the torque in three units, and what a wrench with an extension is set to. */
export function TorqueMap({
  bolt,
  at,
  onAt,
}: {
  bolt: Fastener;
  /** the pass, and how many bolts of it are tightened */
  at: readonly [pass: number, done: number];
  onAt: (at: readonly [number, number]) => void;
}) {
  const passes = passesOf(bolt);
  const [pass, done] = at;
  const [lever, setLever] = useState("");
  const [extension, setExtension] = useState("");
  const order = orderOf(bolt)?.order;
  const now = passes[pass];
  const all = pass >= passes.length;
  const step = () => !all && onAt(done + 1 < bolt.count ? [pass, done + 1] : [pass + 1, 0]);
  const back = () => (done > 0 ? onAt([pass, done - 1]) : pass > 0 && onAt([pass - 1, bolt.count - 1]));
  const [l, e] = [numberIn(lever), numberIn(extension)];
  const reaches = l > 0 && l + e > 0;
  return (
    <section aria-label={`Torque map: ${bolt.name}`} className="border border-rule p-3">
      <h4 className="text-lg">
        {bolt.count} × {bolt.name}, {bolt.thread} × {bolt.lengthMm} mm
        {bolt.oneTime && <span className="label"> · new ones each time</span>}
      </h4>
      <ol className="my-2 flex flex-wrap gap-2">
        {passes.map((p, i) => (
          <li
            key={p.id}
            aria-current={i === pass ? "step" : undefined}
            className={clsx(
              "label border px-2 py-1",
              i < pass
                ? "border-clear bg-clear-wash"
                : i === pass
                  ? "border-ink bg-slate text-on-slate"
                  : "border-rule text-quiet",
            )}
          >
            {p.words}
          </li>
        ))}
      </ol>
      {!all && now?.torqueNm !== undefined && (
        <p className="figures text-2xl">
          <Torques torqueNm={reaches ? wrenchSetting(now.torqueNm, l, e) : now.torqueNm} />
          {reaches && (
            <span className="text-base text-quiet"> set at the wrench for {now.torqueNm.toFixed(1)} N·m</span>
          )}
        </p>
      )}
      <BoltMap bolt={bolt} done={done} next={all ? undefined : order?.[done]} />
      <div className="mt-2 flex flex-wrap items-center gap-3">
        <Button className="min-h-14 px-6 text-lg" onClick={step} disabled={all}>
          {all
            ? "All passes done"
            : `Bolt ${done + 1} of ${bolt.count} ${now?.torqueNm === undefined ? "done" : "clicked"}`}
        </Button>
        <Button onClick={back} disabled={pass === 0 && done === 0}>
          Back one
        </Button>
      </div>
      <p className="mt-2 text-quiet">If you stop before the click, back off and pull again in one steady pull.</p>
      <details className="mt-1">
        <summary className="label flex min-h-11 cursor-pointer items-center">Extension in line on the wrench</summary>
        <div className="grid max-w-md grid-cols-2 gap-3">
          <TextField
            label="Wrench, square to grip, mm"
            inputMode="decimal"
            value={lever}
            onChange={(x) => setLever(x.target.value)}
          />
          <TextField
            label="Extension, mm"
            inputMode="decimal"
            value={extension}
            onChange={(x) => setExtension(x.target.value)}
          />
        </div>
      </details>
    </section>
  );
}

function Torques({ torqueNm }: { torqueNm: number }) {
  const { poundFoot, poundInch } = torqueUnits(torqueNm);
  return (
    <>
      {torqueNm.toFixed(1)} N·m · {poundFoot.toFixed(1)} lbf·ft · {poundInch.toFixed(0)} lbf·in
    </>
  );
}
