import type { ChannelQuality } from "@gearsense/core/drive";
import { channelSpec } from "@gearsense/core/log";
import { PlainTable } from "../shared/PlainTable.tsx";

/** What is to be known of each channel before it is believed. */
export function QualityTable({ quality }: { quality: readonly ChannelQuality[] }) {
  return (
    <section aria-label="Channels">
      <h3 className="text-lg">Channels</h3>
      <PlainTable
        columns={["Channel", "Column of the file", "Readings", "A second", "Shows vibration up to", "To be known"]}
        figures={[2, 3, 4]}
        rows={quality.map((q) => [
          channelSpec(q.channel)?.label ?? q.channel,
          q.column,
          q.readings,
          q.rateHz.toFixed(q.rateHz < 10 ? 1 : 0),
          `${q.nyquistHz.toFixed(1)} Hz`,
          q.flags.join("; ") || "nothing",
        ])}
      />
      <p className="mt-1 text-sm text-quiet">
        What vibrates faster than half of the readings a second folds down to a lower frequency.
      </p>
    </section>
  );
}
