import { useId, useState } from "react";
import { useCautions } from "../api/queries.ts";
import { Notice } from "./controls.tsx";

/** The holds of a step, and which of them the person has ticked. */
export interface Holds {
  readonly open: readonly string[];
  readonly ticked: ReadonlySet<string>;
  readonly tick: (name: string, on: boolean) => void;
}

/** @param names - cautions of a step, by their names in the library; those that are holds need a tick before it */
export function useHolds(names: readonly string[]): Holds {
  const { data } = useCautions();
  const [ticked, setTicked] = useState<ReadonlySet<string>>(new Set());
  const holds = names.filter((n) => data?.holds.includes(n));
  return {
    open: holds.filter((n) => !ticked.has(n)),
    ticked,
    tick: (name, on) => setTicked(new Set(on ? [...ticked, name] : [...ticked].filter((n) => n !== name))),
  };
}

/**
 * Cautions before a step, by their names in the library. Shown once each.
 * @param holds - where the step waits for ticks
 */
export function Cautions({ names, holds }: { names: readonly string[]; holds?: Holds }) {
  const { data } = useCautions();
  const id = useId();
  const known = [...new Set(names)].filter((n) => data?.cautions[n] !== undefined);
  if (!data || known.length === 0) return null;
  const held = holds ? known.filter((n) => data.holds.includes(n)) : [];
  return (
    <Notice tone="caution" title="Before you begin">
      <ul className="list-disc pl-5">
        {known
          .filter((n) => !held.includes(n))
          .map((n) => (
            <li key={n}>{data.cautions[n]}</li>
          ))}
      </ul>
      {holds && held.length > 0 && (
        <fieldset className="mt-2 flex flex-col gap-1">
          <legend className="label">Tick each once it is done</legend>
          {held.map((n) => (
            <label key={n} htmlFor={`${id}-${n}`} className="flex min-h-11 items-start gap-3 py-1">
              <input
                id={`${id}-${n}`}
                type="checkbox"
                className="mt-1 size-6 shrink-0"
                checked={holds.ticked.has(n)}
                onChange={(e) => holds.tick(n, e.target.checked)}
              />
              <span>{data.cautions[n]}</span>
            </label>
          ))}
        </fieldset>
      )}
    </Notice>
  );
}

/** Why a step cannot be stored yet. */
export function HoldsOpen({ holds }: { holds: Holds }) {
  return holds.open.length === 0 ? null : (
    <p className="text-quiet">
      Tick what stands above first: {holds.open.length === 1 ? "one is" : `${holds.open.length} are`} open.
    </p>
  );
}
