import type { SuspectsView } from "@gearsense/contract";
import { percent } from "../shared/percent.ts";

type NextCheck = SuspectsView["advice"]["checks"][number];

/** The next check and what each of its outcomes would lead to: two levels, with minutes and money. */
export function CheckTree({ next, money }: { next: NextCheck; money: (n: number) => string }) {
  const { check, branches } = next;
  return (
    <div className="grid grid-cols-[minmax(0,11fr)_28px_minmax(0,12fr)] items-stretch">
      <div className="flex flex-col justify-center bg-slate p-3 text-on-slate">
        <p className="label text-lg leading-6">{check.title}</p>
        <p className="figures mt-1 text-lg">
          {check.minutes} min · {money(next.cost)} · {check.intrusiveness}
        </p>
      </div>
      <svg aria-hidden="true" viewBox="0 0 28 100" preserveAspectRatio="none" className="h-full w-full text-field">
        {branches.map((b, i) => {
          const y = ((i + 0.5) / branches.length) * 100;
          return (
            <path
              key={b.outcome}
              d={`M0 50 C14 50 14 ${y} 28 ${y}`}
              fill="none"
              stroke="currentColor"
              strokeWidth={1 + 4 * b.probability}
              vectorEffect="non-scaling-stroke"
            />
          );
        })}
      </svg>
      <ul className="flex flex-col justify-around gap-2">
        {branches.map((b) => (
          <li key={b.outcome} className="border border-rule bg-panel p-2.5">
            <p className="label">
              {b.label} · <span className="figures">{percent(b.probability)}</span>
            </p>
            <p>
              {b.act.kind === "check" ? "then check: " : "then: "}
              {b.act.title}
            </p>
            <p className="figures text-[15px] text-quiet">
              {b.act.kind === "repair" ? `cures ${percent(b.act.cures)} · ` : ""}expected {money(b.act.expectedCost)}
            </p>
          </li>
        ))}
      </ul>
    </div>
  );
}
