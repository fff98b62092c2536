import { LEAK_PLACES, type LeakPlace, type Wetness } from "@gearsense/core/observe";
import clsx from "clsx";
import { Droplet, Droplets } from "lucide-react";

/** Where each place lies on the outline, in % of its box. */
const AT: Readonly<Record<LeakPlace, readonly [number, number]>> = {
  "front-seal": [17, 62],
  pan: [50, 80],
  connector: [40, 33],
  "cooler-lines": [63, 36],
  selector: [52, 56],
  output: [86, 58],
  breather: [56, 14],
};
const NEXT: Readonly<Record<Wetness, Wetness | undefined>> = { dry: "seep", seep: "drip", drip: undefined };
const WORDS: Readonly<Record<Wetness, string>> = { dry: "dry", seep: "seep", drip: "drip" };

/** A transmission from the side. Each touch on a place goes on: dry, seep, drip, not looked at. */
export function LeakOutline({
  places,
  onChange,
}: {
  places: Readonly<Partial<Record<LeakPlace, Wetness>>>;
  onChange: (place: LeakPlace, wetness: Wetness | undefined) => void;
}) {
  return (
    <fieldset>
      <legend className="label">Touch each place: dry, seep, drip</legend>
      <div className="relative mt-1 aspect-[16/6] max-h-[300px] w-full border border-rule bg-ground">
        <svg viewBox="0 0 160 60" aria-hidden="true" className="absolute inset-0 size-full" preserveAspectRatio="none">
          <g className="fill-panel stroke-ink" strokeWidth="1.4">
            <path vectorEffect="non-scaling-stroke" d="M8 12 L34 10 L44 18 L44 44 L34 52 L8 50 Z" />
            <path vectorEffect="non-scaling-stroke" d="M44 17 L104 17 L104 43 L44 43 Z" />
            <path vectorEffect="non-scaling-stroke" d="M50 43 L100 43 L97 53 L53 53 Z" />
            <path vectorEffect="non-scaling-stroke" d="M104 20 L126 25 L126 38 L104 42 Z" />
            <path vectorEffect="non-scaling-stroke" d="M126 28 L152 28 L152 36 L126 36 Z" />
            <path vectorEffect="non-scaling-stroke" d="M88 17 L88 9 L92 9 L92 17" />
            <path
              vectorEffect="non-scaling-stroke"
              className="fill-none"
              d="M98 22 L112 12 L156 12 M98 26 L114 17 L156 17"
            />
          </g>
          <g className="fill-none stroke-quiet" strokeDasharray="3 3">
            <path vectorEffect="non-scaling-stroke" d="M22 11 L22 51 M64 17 L64 43 M84 17 L84 43" />
          </g>
        </svg>
        {LEAK_PLACES.map(({ id, label }) => {
          const seen = places[id];
          const [left, top] = AT[id];
          return (
            <button
              key={id}
              type="button"
              aria-label={`${label}: ${seen ? WORDS[seen] : "not looked at"}`}
              title={label}
              onClick={() => onChange(id, seen ? NEXT[seen] : "dry")}
              className={clsx(
                "label absolute flex min-h-11 min-w-11 -translate-x-1/2 -translate-y-1/2 items-center justify-center gap-1 rounded-sm border-2 px-2 text-[15px]",
                seen === undefined && "border-dashed border-field bg-panel text-quiet",
                seen === "dry" && "border-clear bg-clear-wash text-clear",
                seen === "seep" && "border-caution bg-caution-wash text-caution",
                seen === "drip" && "border-stop bg-stop-wash text-stop",
              )}
              style={{ left: `${left}%`, top: `${top}%` }}
            >
              {seen === "seep" && <Droplet aria-hidden="true" className="size-4" />}
              {seen === "drip" && <Droplets aria-hidden="true" className="size-4" />}
              {seen ? WORDS[seen] : "?"}
            </button>
          );
        })}
      </div>
      <p className="mt-1 text-sm text-quiet">
        {LEAK_PLACES.filter((p) => places[p.id] && places[p.id] !== "dry")
          .map((p) => `${p.label}: ${WORDS[places[p.id] as Wetness]}`)
          .join(" · ") || "Front at the left. A second touch is wetter."}
      </p>
    </fieldset>
  );
}
