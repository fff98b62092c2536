import type { DrawnPart, StackDrawing } from "@gearsense/core/bench";

const WIDTH = 760;
const NAME = 92;
const ROW = 54;
const BOX = 26;
const FILL: Readonly<Record<DrawnPart["kind"], string>> = {
  friction: "fill-caution-wash",
  steel: "fill-rule",
  fixed: "fill-panel",
  selective: "fill-slate",
  gap: "fill-ground",
  room: "fill-clear-wash",
  take: "fill-rule",
  overlap: "fill-stop",
};
/** What a colour stands for, of parts too narrow for their names. */
const WORDS = {
  friction: "friction plate",
  steel: "steel",
  selective: "selective part",
  gap: "what is left",
  overlap: "too much",
} as const;
const KEYED = ["friction", "steel", "selective", "gap", "overlap"] as const;
/** Names stand within their parts where there is room. */
const NAMED: Readonly<Record<DrawnPart["kind"], string>> = {
  friction: "fill-ink text-[13px]",
  steel: "fill-ink text-[13px]",
  fixed: "fill-ink text-[13px]",
  selective: "fill-on-slate text-[13px]",
  gap: "fill-ink text-[13px]",
  room: "fill-ink text-[13px]",
  take: "fill-ink text-[13px]",
  overlap: "fill-ground text-[13px]",
};
/** Letters of the labels are about so wide. */
const LETTER = 7;

/** A stack-up drawn to scale; what each part is stands in its title, and in the caption for those who do not see it. */
export function StackUp({ drawing }: { drawing: StackDrawing }) {
  const scale = (WIDTH - NAME - 8) / drawing.lengthMm;
  const height = drawing.rows.length * ROW;
  const shown = new Set(drawing.rows.flatMap((r) => r.parts.map((p) => p.kind)));
  const kinds = KEYED.filter((k) => shown.has(k));
  return (
    <figure className="border border-rule bg-panel p-2">
      <svg
        viewBox={`0 0 ${WIDTH} ${height}`}
        className="w-full"
        role="img"
        aria-label={`${drawing.title}. ${drawing.caption}. ${drawing.rows.map((r) => `${r.name}: ${r.parts.map((p) => `${p.name} ${p.mm.toFixed(2)} mm`).join(", ")}`).join(". ")}`}
      >
        {drawing.rows.map((row, i) => {
          const y = i * ROW + 4;
          return (
            <g key={row.name}>
              <text x={0} y={y + BOX / 2 + 5} className="fill-quiet text-[15px]">
                {row.name}
              </text>
              {row.parts.map((p, k) => {
                const x = NAME + p.fromMm * scale;
                const w = Math.max(1, p.mm * scale);
                const size = p.mm.toFixed(2);
                return (
                  // biome-ignore lint/suspicious/noArrayIndexKey: two parts may have one name
                  <g key={k}>
                    <title>{`${p.name}, ${size} mm`}</title>
                    <rect
                      x={x}
                      y={y}
                      width={w}
                      height={BOX}
                      className={`${FILL[p.kind]} stroke-ink`}
                      strokeWidth={1}
                      strokeDasharray={p.kind === "gap" ? "4 3" : undefined}
                    />
                    {w > LETTER * p.name.length && (
                      <text x={x + w / 2} y={y + BOX / 2 + 5} textAnchor="middle" className={NAMED[p.kind]}>
                        {p.name}
                      </text>
                    )}
                    {w > LETTER * size.length && (
                      <text x={x + w / 2} y={y + BOX + 16} textAnchor="middle" className="figures fill-ink text-[13px]">
                        {size}
                      </text>
                    )}
                  </g>
                );
              })}
            </g>
          );
        })}
      </svg>
      <figcaption className="flex flex-wrap items-center gap-x-4 pt-1 text-quiet">
        {drawing.caption}
        {kinds.map((k) => (
          <span key={k} className="inline-flex items-center gap-1.5 text-sm">
            <svg aria-hidden="true" viewBox="0 0 14 14" className="size-3.5">
              <rect x={0.5} y={0.5} width={13} height={13} className={`${FILL[k]} stroke-ink`} />
            </svg>
            {WORDS[k]}
          </span>
        ))}
      </figcaption>
    </figure>
  );
}
