import {
  ColourError,
  colourChange,
  type FluidColour,
  fluidColour,
  type Patch,
  type Pixels,
  patchMean,
} from "@gearsense/core/fluid";
import type { Entry, EntryBodies } from "@gearsense/core/job";
import clsx from "clsx";
import { type PointerEvent, useEffect, useMemo, useRef, useState } from "react";
import { urlOf } from "../api/client.ts";
import { useJob } from "../job/job-context.tsx";
import { PhotoStrip } from "../photos/PhotoStrip.tsx";
import { Choice, Notice } from "../shared/controls.tsx";

type PhotoColour = NonNullable<EntryBodies["fluid"]["photo"]>;
/** Colour differences say nothing below it, whatever the light. */
const UNIT_FILE_UNSURE = 3;
const STEP = 0.02;
const START: { fluid: Patch; white: Patch } = {
  fluid: { x: 0.15, y: 0.4, w: 0.14, h: 0.14 },
  white: { x: 0.7, y: 0.4, w: 0.14, h: 0.14 },
};

/** The pixels of a stored photo. */
function usePixels(url: string | undefined): Pixels | undefined {
  const [loaded, setLoaded] = useState<{ url: string; pixels: Pixels } | undefined>();
  useEffect(() => {
    if (!url) return;
    const image = new Image();
    let gone = false;
    image.onload = () => {
      if (gone) return;
      const canvas = document.createElement("canvas");
      [canvas.width, canvas.height] = [image.naturalWidth, image.naturalHeight];
      const context = canvas.getContext("2d", { willReadFrequently: true });
      if (!context) return;
      context.drawImage(image, 0, 0);
      const { data } = context.getImageData(0, 0, canvas.width, canvas.height);
      setLoaded({ url, pixels: { widthPx: canvas.width, heightPx: canvas.height, rgba: data } });
    };
    image.src = url;
    return () => {
      gone = true;
    };
  }, [url]);
  return loaded && loaded.url === url ? loaded.pixels : undefined;
}

const within = (v: number, size: number) => Math.max(0, Math.min(1 - size, v));

/** Colour of the fluid from a photo: one patch on the fluid, one on white paper. */
export function ColourTool({
  value,
  onChange,
}: {
  value: PhotoColour | undefined;
  onChange: (v: PhotoColour | undefined) => void;
}) {
  const { job, state } = useJob();
  const photos = state.photos.filter((p) => p.body.about === "fluid");
  const chosenId = value?.photoId ?? photos.at(-1)?.body.photoId;
  const photo = photos.find((p) => p.body.photoId === chosenId);
  const url = photo && urlOf("photo", { jobId: job.id, photoId: photo.body.photoId });
  const pixels = usePixels(url);
  const [which, setWhich] = useState<"fluid" | "white">("fluid");
  const [moved, setMoved] = useState<{ fluid: Patch; white: Patch } | undefined>();
  const patches = moved ?? (value ? { fluid: value.fluid, white: value.white } : START);
  const box = useRef<HTMLDivElement>(null);
  const read = useMemo((): { colour?: FluidColour; problem?: string } => {
    if (!pixels) return {};
    try {
      return { colour: fluidColour(patchMean(pixels, patches.fluid), patchMean(pixels, patches.white)) };
    } catch (error) {
      if (error instanceof ColourError || error instanceof RangeError) return { problem: error.message };
      throw error;
    }
  }, [pixels, patches]);

  const place = (next: { fluid: Patch; white: Patch }) => {
    setMoved(next);
    if (!pixels || !photo) return;
    try {
      const { lab, uncertaintyDeltaE } = fluidColour(patchMean(pixels, next.fluid), patchMean(pixels, next.white));
      onChange({ photoId: photo.body.photoId, ...next, lab, uncertaintyDeltaE });
    } catch (error) {
      if (!(error instanceof ColourError || error instanceof RangeError)) throw error;
      onChange(undefined);
    }
  };
  const move = (e: PointerEvent<HTMLDivElement>) => {
    const frame = box.current?.getBoundingClientRect();
    if (!frame || e.buttons !== 1) return;
    const p = patches[which];
    const x = within((e.clientX - frame.left) / frame.width - p.w / 2, p.w);
    const y = within((e.clientY - frame.top) / frame.height - p.h / 2, p.h);
    place({ ...patches, [which]: { ...p, x, y } });
  };
  const nudge = (dx: number, dy: number) => {
    const p = patches[which];
    place({ ...patches, [which]: { ...p, x: within(p.x + dx, p.w), y: within(p.y + dy, p.h) } });
  };
  return (
    <div className="flex w-full flex-col gap-3">
      <PhotoStrip about={["fluid"]} take="fluid" />
      {photo && (
        <div className="grid gap-4 lg:grid-cols-[1fr_1fr]">
          <div className="flex flex-col gap-2">
            <Choice
              label="Touch the picture to place"
              value={which}
              options={[
                { value: "fluid", label: "the fluid patch" },
                { value: "white", label: "the white reference" },
              ]}
              onChange={setWhich}
            />
            {/* biome-ignore lint/a11y/useSemanticElements: a picture on which a patch is moved by hand or arrow keys */}
            <div
              ref={box}
              role="group"
              // biome-ignore lint/a11y/noNoninteractiveTabindex: the arrow keys move the patch
              tabIndex={0}
              aria-label={`Photo with the ${which === "fluid" ? "fluid patch" : "white reference"}; arrow keys move it`}
              className="relative touch-none select-none border border-field"
              onPointerDown={move}
              onPointerMove={move}
              onKeyDown={(e) => {
                const by: Record<string, [number, number]> = {
                  ArrowLeft: [-STEP, 0],
                  ArrowRight: [STEP, 0],
                  ArrowUp: [0, -STEP],
                  ArrowDown: [0, STEP],
                };
                const step = by[e.key];
                if (!step) return;
                e.preventDefault();
                nudge(...step);
              }}
            >
              <img src={url} alt="Fluid beside white paper" draggable={false} className="w-full" />
              {(["fluid", "white"] as const).map((k) => (
                <span
                  key={k}
                  className={clsx(
                    "label pointer-events-none absolute border-2 text-sm",
                    k === which ? "border-action" : "border-ink",
                  )}
                  style={{
                    left: `${patches[k].x * 100}%`,
                    top: `${patches[k].y * 100}%`,
                    width: `${patches[k].w * 100}%`,
                    height: `${patches[k].h * 100}%`,
                  }}
                >
                  <span className="absolute -top-5 left-0 bg-panel px-1">{k}</span>
                </span>
              ))}
            </div>
          </div>
          <ColourReading read={read} taken={value} onTake={() => place(patches)} />
        </div>
      )}
    </div>
  );
}

/** The colour of the record before this one, if it had one from a photo. */
function earlierColour(entries: readonly Entry[], current: string | undefined): PhotoColour | undefined {
  const earlier = entries.filter((e) => e.kind === "fluid" && e.id !== current);
  return (earlier.at(-1)?.body as EntryBodies["fluid"] | undefined)?.photo;
}

function ColourReading({
  read,
  taken,
  onTake,
}: {
  read: { colour?: FluidColour; problem?: string };
  taken: PhotoColour | undefined;
  onTake: () => void;
}) {
  const { job, state } = useJob();
  if (read.problem)
    return (
      <Notice tone="caution" title="No colour from these patches" live>
        {read.problem}
      </Notice>
    );
  const { colour } = read;
  if (!colour) return <p role="status">Reading the picture …</p>;
  const [l, a, b] = colour.lab;
  const fresh = job.unit.fluid.freshLab;
  const earlier = earlierColour(job.entries as Entry[], state.fluid?.id);
  const from = fresh && colourChange(fresh, colour.lab, UNIT_FILE_UNSURE, colour.uncertaintyDeltaE);
  const since = earlier && colourChange(earlier.lab, colour.lab, earlier.uncertaintyDeltaE, colour.uncertaintyDeltaE);
  const swatch = (lab: readonly number[]) => `lab(${lab[0]}% ${lab[1]} ${lab[2]})`;
  return (
    <section className="flex flex-col gap-2" aria-label="Colour of the fluid">
      <div className="flex gap-2">
        {fresh && (
          <figure>
            <div className="h-16 w-24 border border-field" style={{ background: swatch(fresh) }} />
            <figcaption className="text-sm text-quiet">fresh (unit file)</figcaption>
          </figure>
        )}
        <figure>
          <div className="h-16 w-24 border border-field" style={{ background: swatch(colour.lab) }} />
          <figcaption className="text-sm text-quiet">this one, balanced</figcaption>
        </figure>
      </div>
      <p className="figures text-lg">
        L* {l.toFixed(0)} · a* {a.toFixed(0)} · b* {b.toFixed(0)}, ± ΔE {colour.uncertaintyDeltaE.toFixed(1)}
      </p>
      {from && (
        <p>
          Against fresh fluid: <strong>{from.words}</strong>, ΔE {from.deltaE.toFixed(0)} ± {from.plusMinus.toFixed(0)}.
        </p>
      )}
      {since && (
        <p>
          Against the earlier record: <strong>{since.words}</strong>, ΔE {since.deltaE.toFixed(0)} ±{" "}
          {since.plusMinus.toFixed(0)}.
        </p>
      )}
      {colour.doubts.length > 0 && (
        <ul className="list-disc pl-5 text-sm text-quiet">
          {colour.doubts.map((d) => (
            <li key={d}>{d}</li>
          ))}
        </ul>
      )}
      <p className="text-sm text-quiet">
        Colour can tell of water and of change since last time. It cannot tell which fluid this is, how worn it is, or
        whether a lining burns.
      </p>
      {!taken && (
        <button
          type="button"
          onClick={onTake}
          className="label min-h-11 self-start rounded-sm border border-field bg-panel px-4 hover:border-ink"
        >
          Store this colour
        </button>
      )}
    </section>
  );
}
