import { useCautions } from "../api/queries.ts";
import { Notice } from "./controls.tsx";

/** Cautions before a step, by their names in the library. Shown once each. */
export function Cautions({ names }: { names: readonly string[] }) {
  const { data } = useCautions();
  const texts = names.map((n) => data?.cautions[n]).filter((t): t is string => t !== undefined);
  if (texts.length === 0) return null;
  return (
    <Notice tone="caution" title="Before you begin">
      <ul className="list-disc pl-5">
        {texts.map((t) => (
          <li key={t}>{t}</li>
        ))}
      </ul>
    </Notice>
  );
}
