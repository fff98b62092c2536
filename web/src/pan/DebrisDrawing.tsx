import type { DebrisKind } from "@gearsense/core/job";

/** A drawn example of each kind of debris, to hold what lies in the pan against. Drawn for this application. */
const DRAWINGS: Readonly<Record<DebrisKind, React.ReactNode>> = {
  "grey-paste": (
    <g>
      <path
        d="M8 34 C14 18 28 30 36 20 C48 8 62 22 70 18 C78 26 66 40 52 38 C38 46 16 46 8 34 Z"
        className="fill-field"
      />
      <path d="M18 32 C28 26 38 32 50 26" className="fill-none stroke-panel" strokeWidth="1.5" />
    </g>
  ),
  slivers: (
    <g className="fill-none stroke-ink" strokeWidth="1.8" strokeLinecap="round">
      <path d="M10 40 L26 14 M22 42 L44 34 M40 12 L54 30 M52 42 L70 36 M60 10 L66 26 M34 24 L38 40" />
    </g>
  ),
  brass: (
    <g className="fill-caution">
      <path d="M12 30 L22 20 L28 28 L20 36 Z M36 14 L46 12 L48 22 L38 24 Z M44 34 L58 28 L60 38 L50 44 Z M64 14 L72 18 L68 26 L61 22 Z M24 42 L30 38 L34 44 L28 47 Z" />
    </g>
  ),
  aluminium: (
    <g className="fill-rule stroke-quiet">
      <path d="M10 36 L20 22 L30 26 L28 40 Z M36 20 C44 10 52 14 54 24 L44 30 Z M56 34 L70 26 L74 38 L62 44 Z M38 40 L46 36 L48 44 Z" />
    </g>
  ),
  lining: (
    <g className="fill-ink">
      <path d="M10 22 C20 12 30 16 34 24 C30 32 16 34 10 22 Z M44 12 C56 8 66 14 66 22 C58 28 46 24 44 12 Z M30 40 C38 34 52 36 56 42 C48 50 34 48 30 40 Z" />
      <path d="M12 42 L22 38 M64 36 L74 32 M60 44 L68 46" className="stroke-ink" strokeWidth="1.4" />
    </g>
  ),
  clip: (
    <g className="fill-none stroke-ink" strokeWidth="3">
      <path d="M14 40 A16 16 0 0 1 34 14" />
      <path d="M46 14 C56 14 52 22 62 22 C72 22 68 30 56 30 C48 30 54 38 66 38" strokeWidth="2.2" />
    </g>
  ),
  sealant: (
    <g className="fill-none stroke-trace-2" strokeWidth="3" strokeLinecap="round" style={{ stroke: "var(--trace-2)" }}>
      <path d="M10 36 C22 14 30 44 42 24 C50 12 58 34 72 20" />
      <path d="M50 44 C58 38 62 46 70 42" />
    </g>
  ),
  "water-beads": (
    <g className="fill-panel stroke-ink" strokeWidth="1.5">
      <circle cx="20" cy="30" r="9" />
      <circle cx="42" cy="20" r="6" />
      <circle cx="56" cy="36" r="10" />
      <circle cx="36" cy="42" r="4" />
      <circle cx="68" cy="18" r="5" />
      <path d="M16 26 A6 6 0 0 1 20 24 M51 31 A7 7 0 0 1 56 29" className="fill-none" />
    </g>
  ),
};

export function DebrisDrawing({ kind }: { kind: DebrisKind }) {
  return (
    <svg viewBox="0 0 80 54" aria-hidden="true" className="h-[54px] w-20 shrink-0 border border-rule bg-ground">
      {DRAWINGS[kind]}
    </svg>
  );
}
