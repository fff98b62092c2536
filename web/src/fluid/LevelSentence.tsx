import type { LevelJudgement } from "@gearsense/core/fluid";
import { useSettings } from "../settings/settings.tsx";

const NOTHING_L = 0.05;

/** "0.4 l low at 80 °C, ± 0.2 l". */
export function LevelSentence({ level }: { level: LevelJudgement }) {
  const { show } = useSettings();
  const { atReferenceL, referenceC, plusMinusL } = level;
  const off =
    Math.abs(atReferenceL) < NOTHING_L
      ? "Full"
      : `${show(Math.abs(atReferenceL), "volume", 1)} ${atReferenceL < 0 ? "low" : "over"}`;
  return (
    <span className="figures text-xl">
      {off} at {show(referenceC, "temperature")}, ± {show(plusMinusL, "volume", 1)}
    </span>
  );
}
