import type { SuspectsView } from "@gearsense/contract";
import { percent } from "@gearsense/core/quantity";

type NextCheck = SuspectsView["advice"]["checks"][number];
type Branch = NextCheck["branches"][number];

/** The next check and what each of its outcomes would lead to: two levels, with minutes and money. */
export function CheckTree({ next, money }: { next: NextCheck; money: (n: number) => string }) {
  const { check, branches } = next;
  return (
    <div>
      <div className="flex flex-wrap items-baseline justify-between gap-x-4 bg-slate p-3 text-on-slate">
        <p className="label text-lg leading-6">{check.title}</p>
        <p className="figures text-lg">
          {next.minutes} min · {money(next.cost)} · {check.intrusiveness}
        </p>
      </div>
      <ul className="ml-3 border-l-2 border-field">
        {branches.map((b) => (
          <li key={b.outcome} className="relative pt-2 pl-4">
            <span
              aria-hidden="true"
              className="absolute top-6 left-0 w-4 bg-field"
              style={{ height: `${1 + 4 * b.probability}px` }}
            />
            <div className="border border-rule bg-panel px-2.5 py-1.5">
              <p className="label">
                {b.label} · <span className="figures">{percent(b.probability)}</span>
              </p>
              <Then act={b.act} money={money} />
            </div>
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
        {act.title}{" "}
        <span className="figures text-[15px] whitespace-nowrap text-quiet">
          {act.kind === "repair" ? `cures ${percent(act.cures)} · ` : `${act.minutes} min · `}
          likely total {money(act.expectedCost)}
        </span>
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
