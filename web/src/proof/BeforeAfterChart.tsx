import type { BeforeAfterBar } from "@gearsense/core/report";
import NamedBars from "../shared/NamedBars.tsx";

/** Before and after in the same axis, a pair of bars for each condition that both drives met. */
export default function BeforeAfterChart({ bars }: { bars: readonly BeforeAfterBar[] }) {
  return (
    <div className="border border-rule bg-panel p-3">
      <NamedBars
        unit="rpm, same conditions"
        first={{ label: "before", colour: "action" }}
        second={{ label: "after", colour: "clear" }}
        limits={[...new Set(bars.map((b) => b.limit).filter((l): l is number => l !== undefined))]}
        bars={bars.map((b) => ({
          name: b.label,
          first: Math.round(Math.abs(b.before)),
          second: b.after === undefined ? undefined : Math.round(Math.abs(b.after)),
        }))}
      />
    </div>
  );
}
