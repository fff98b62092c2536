/** A signature as it was drawn. @param strokes - x, y, x, y … in thousandths of the width */
export function Signed({ strokes }: { strokes: readonly (readonly number[])[] }) {
  const ys = strokes.flatMap((s) => s.filter((_, i) => i % 2 === 1));
  const [top, bottom] = [Math.min(...ys) - 10, Math.max(...ys) + 10];
  return (
    <svg
      role="img"
      aria-label="Signature"
      viewBox={`0 ${top} 1000 ${Math.max(40, bottom - top)}`}
      className="mt-2 w-72 border-b border-rule"
    >
      {strokes.map((s, i) => (
        <polyline
          // biome-ignore lint/suspicious/noArrayIndexKey: strokes have no identity beyond their place
          key={i}
          points={pairs(s)}
          fill="none"
          stroke="currentColor"
          strokeWidth={6}
          strokeLinecap="round"
          strokeLinejoin="round"
        />
      ))}
    </svg>
  );
}

/** A tap is a point: drawn as the shortest of lines. */
function pairs(stroke: readonly number[]): string {
  const list = stroke.length === 2 ? [...stroke, (stroke[0] as number) + 1, stroke[1] as number] : stroke;
  return list.join(" ");
}
