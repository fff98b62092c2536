import type { SuspectsView } from "@gearsense/contract";
import { percent } from "../shared/percent.ts";

type NextCheck = SuspectsView["advice"]["checks"][number];
type Branch = NextCheck["branches"][number];

/** The next check and what each of its outcomes would lead to: two levels, with minutes and money. */
export function CheckTree({ next, money }: { next: NextCheck; money: (n: number) => string }) {
  const { check, branches } = next;
  return (
    <div className="grid grid-cols-[minmax(0,9fr)_28px_minmax(0,14fr)] items-stretch">
      <div className="flex flex-col justify-center bg-slate p-3 text-on-slate">
        <p className="label text-lg leading-6">{check.title}</p>
        <p className="figures mt-1 text-lg">
          {next.minutes} min · {money(next.cost)} · {check.intrusiveness}
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
            <Then act={b.act} money={money} />
          </li>
        ))}
      </ul>
    </div>
  );
}

function Then({ act, money }: { act: Branch["act"]; money: (n: number) => string }) {
  return (
    <>
      <p>
        {act.kind === "check" ? "then check: " : "then: "}
        {act.title}
      </p>
      <p className="figures text-[15px] text-quiet">
        {act.kind === "repair" ? `cures ${percent(act.cures)} · ` : `${act.minutes} min · `}
        expected {money(act.expectedCost)}
      </p>
      {act.kind === "check" && (
        <ul className="mt-1 border-l-2 border-field pl-2.5">
          {act.branches.map((b) => (
            <li key={b.label} className="py-0.5 text-[15px] leading-5">
              <span className="label">
                {b.label} <span className="figures">{percent(b.probability)}</span>:
              </span>{" "}
              {b.act.title} <span className="figures text-quiet">{money(b.act.expectedCost)}</span>
            </li>
          ))}
        </ul>
      )}
    </>
  );
}
