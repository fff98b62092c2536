import { panFasteners, panSealText, refillOf, turnOf } from "@gearsense/core/fluid";
import type { EntryBodies } from "@gearsense/core/job";
import type { Fastener, Unit } from "@gearsense/core/unit";
import { useJob } from "../job/job-context.tsx";
import { useSettings } from "../settings/settings.tsx";
import { Notice } from "../shared/controls.tsx";

const WORDS = { drained: "drained", spilt: "spilt", lines: "cooler lines", converter: "converter" } as const;

/** Litres to fill again, the seal of the pan, and its bolts with torque and order. */
export function RefillAndBolts({ pan }: { pan: EntryBodies["pan"] }) {
  const { job } = useJob();
  const { show } = useSettings();
  const unit = job.unit as Unit;
  const refill =
    pan.drainedL === null
      ? undefined
      : refillOf(unit, {
          drainedL: pan.drainedL,
          drainedC: pan.drainedC,
          spiltL: pan.spiltL ?? 0,
          linesOpened: pan.linesOpened ?? false,
          converterDrained: pan.converterDrained ?? false,
        });
  const bolts = panFasteners(unit);
  return (
    <div className="grid gap-4 lg:grid-cols-2">
      {refill && (
        <section aria-label="Litres to fill" className="border border-rule p-3">
          <h3 className="text-lg">
            Fill {show(refill.litres, "volume", 1)} at {show(refill.referenceC, "temperature")}
          </h3>
          <p className="text-quiet">
            {refill.parts.map((p) => `${WORDS[p.what]} ${show(p.litres, "volume", 2)}`).join(" + ")}. Then set the level
            by the unit’s own procedure: the level decides, not the can.
          </p>
          {refill.off && (
            <Notice tone="caution" title="Over a tenth off">
              {show(refill.drainedL + (pan.spiltL ?? 0), "volume", 1)} came out where{" "}
              {show(refill.expectedL, "volume", 1)} are expected: it was low or overfilled before, or not all was
              caught.
            </Notice>
          )}
        </section>
      )}
      {bolts.length > 0 && (
        <section aria-label="Seal and bolts of the pan" className="border border-rule p-3">
          <h3 className="text-lg">Seal and bolts</h3>
          <p>{panSealText(unit)}</p>
          <ul>
            {bolts.map((f) => (
              <li key={f.id} className="border-b border-rule py-1 last:border-0">
                {f.count} × {f.name}, {f.thread}: <span className="figures">{show(f.torqueNm, "torque")}</span>
                {f.angleDeg ? ` + ${f.angleDeg}°` : ""}
                {f.oneTime && <span className="label"> · new ones each time</span>}
                <Order bolt={f} />
              </li>
            ))}
          </ul>
          <p className="text-sm text-quiet">
            From the unit file; the maker’s data go before it. Hand-tight first, all round.
          </p>
        </section>
      )}
    </div>
  );
}

/** The bolts where they sit, numbered in the order in which they are tightened. */
function Order({ bolt }: { bolt: Fastener }) {
  const turn = turnOf(bolt);
  const places = bolt.positionsMm;
  if (!turn || !places || places.length < 3) return null;
  const xs = places.map(([x]) => x);
  const ys = places.map(([, y]) => y);
  const [left, right, top, bottom] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
  const pad = 26;
  return (
    <svg
      role="img"
      aria-label={`Order of tightening: ${bolt.order ? "by the unit file" : "from the middle outwards"}`}
      viewBox={`${left - pad} ${top - pad} ${right - left + 2 * pad} ${bottom - top + 2 * pad}`}
      className="mt-2 max-h-48 w-full"
    >
      <rect
        x={left}
        y={top}
        width={right - left}
        height={bottom - top}
        className="fill-ground stroke-rule"
        strokeWidth="2"
      />
      {places.map(([x, y], i) => (
        <g key={`${x},${y}`}>
          <circle cx={x} cy={y} r="17" className="fill-panel stroke-ink" strokeWidth="2" />
          <text x={x} y={y + 6} textAnchor="middle" fontSize="18" className="figures fill-ink">
            {turn[i]}
          </text>
        </g>
      ))}
    </svg>
  );
}
