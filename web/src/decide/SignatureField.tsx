import { useEffect, useRef } from "react";
import SignaturePad from "signature_pad";
import { Button } from "../shared/controls.tsx";

type Strokes = readonly (readonly number[])[];
/** Thousandths of the width: the field may be wider when it is shown again. */
const WIDE = 1000;

/** A field to sign in with finger, pen or mouse. */
export function SignatureField({
  value,
  onChange,
  error,
}: {
  value: Strokes;
  onChange: (strokes: Strokes) => void;
  error: string | undefined;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const pad = useRef<SignaturePad | undefined>(undefined);
  const first = useRef(value);
  const tell = useRef(onChange);
  tell.current = onChange;
  useEffect(() => {
    const field = canvas.current;
    if (!field) return undefined;
    const ratio = window.devicePixelRatio;
    const width = field.clientWidth;
    field.width = width * ratio;
    field.height = field.clientHeight * ratio;
    field.getContext("2d")?.scale(ratio, ratio);
    const ink = getComputedStyle(field).color;
    const made = new SignaturePad(field, { penColor: ink, minWidth: 1.2, maxWidth: 2.4 });
    pad.current = made;
    // what was drawn before it was left
    made.fromData(
      first.current.map((s) => ({
        penColor: ink,
        dotSize: 0,
        minWidth: 1.2,
        maxWidth: 2.4,
        velocityFilterWeight: 0.7,
        compositeOperation: "source-over",
        points: Array.from({ length: s.length / 2 }, (_, i) => ({
          x: ((s[2 * i] as number) * width) / WIDE,
          y: ((s[2 * i + 1] as number) * width) / WIDE,
          pressure: 0.5,
          time: i,
        })),
      })),
    );
    const done = () =>
      tell.current(
        made
          .toData()
          .map((s) =>
            s.points.flatMap(({ x, y }) =>
              [x, y].map((n) => Math.min(WIDE, Math.max(0, Math.round((n * WIDE) / width)))),
            ),
          ),
      );
    made.addEventListener("endStroke", done);
    return () => {
      made.removeEventListener("endStroke", done);
      made.off();
    };
  }, []);
  const id = "signature-error";
  return (
    <div>
      <div className="flex items-end justify-between gap-3">
        <span className="label" id="signature-label">
          Signature
        </span>
        <Button
          tone="quiet"
          disabled={value.length === 0}
          onClick={() => {
            pad.current?.clear();
            onChange([]);
          }}
        >
          Clear
        </Button>
      </div>
      <canvas
        ref={canvas}
        role="img"
        aria-labelledby="signature-label"
        aria-describedby={error ? id : undefined}
        className="h-44 w-full touch-none border border-field bg-panel text-ink"
      />
      {error && (
        <p id={id} role="alert" className="font-semibold text-stop">
          {error}
        </p>
      )}
    </div>
  );
}
