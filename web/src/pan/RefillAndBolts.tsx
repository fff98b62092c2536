import { panFasteners, panSealText, refillOf } from "@gearsense/core/fluid";
import type { EntryBodies } from "@gearsense/core/job";
import type { Unit } from "@gearsense/core/unit";
import { useJob } from "../job/job-context.tsx";
import { useSettings } from "../settings/settings.tsx";
import { Notice } from "../shared/controls.tsx";
import { BoltMap } from "../shared/TorqueMap.tsx";

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
                <BoltMap bolt={f} />
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
