import type { Decision, Figures } from "@gearsense/core/decide";
import { formatHours, percent } from "@gearsense/core/quantity";
import { inSentence } from "@gearsense/core/unit";
import { Fragment } from "react";
import { Link } from "react-router";

/** Where the figures of one option come from: the odds, the library's times and prices, the draws. */
export function OriginOf({
  jobId,
  figures: f,
  decision,
  money,
}: {
  jobId: string;
  figures: Figures;
  decision: Decision;
  money: (n: number) => string;
}) {
  const { origin } = f;
  const left = 1 - origin.cures.reduce((s, c) => s + c.probability, 0);
  const rows: [string, React.ReactNode][] = [
    [
      "Cures",
      <ul key="cures">
        {origin.cures.map((c) => (
          <li key={c.faultIds.join()} className="flex justify-between gap-4">
            <Link className="underline" to={`/jobs/${jobId}/suspects`}>
              {c.titles.join(" and ")}
            </Link>
            <span className="figures whitespace-nowrap">
              {percent(c.probability)} likely × {percent(c.cures)} cured = {percent(c.probability * c.cures)}
            </span>
          </li>
        ))}
        {left > 0.005 && (
          <li className="flex justify-between gap-4 text-quiet">
            <span>everything less likely than one in a hundred</span>
            <span className="figures">{percent(left)} together</span>
          </li>
        )}
      </ul>,
    ],
    [
      "Price",
      f.choice.repair ? (
        <Fragment key="price">
          {formatHours(f.hours[1])} h × {money(origin.hourlyRate)}
          {(origin.price?.savedH ?? 0) > 0 &&
            ` (${formatHours(origin.price?.savedH ?? 0)} h less for what is open already)`}
          {origin.price?.lines
            .filter((l) => l.kind !== "labour")
            .map(
              (l) =>
                ` + ${l.quantity === 1 ? "" : `${l.quantity.toFixed(1)} × `}${money(l.each)} ${inSentence(l.what)}`,
            )
            .join("")}
          . Hours best, likely, worst: {f.hours.map(formatHours).join(", ")}
          {f.choice.source ? `; price by source "${f.choice.source.title}"` : ""}. From the repairs of the library.
        </Fragment>
      ) : (
        "nothing is done"
      ),
    ],
    [
      "Likely total",
      <Fragment key="end">
        {decision.draws} vehicles drawn from these odds, seed {decision.seed}. One that is not cured comes back at{" "}
        {money(origin.comebackCost)}
        {origin.after.length > 0 ? `, then: ${origin.after.slice(0, 3).join("; ")}` : ""}. Half of them cost under{" "}
        {money(f.p50)}.
      </Fragment>,
    ],
    [
      "Days",
      f.choice.repair
        ? `${origin.leadDays[2] > 0 ? `The part comes in ${origin.leadDays[0]} to ${origin.leadDays[2]} days` : "No part has to come"}; six hours of work a day, two days for a comeback. Half of the vehicles drive again by the first figure, nine in ten by the second.`
        : "it is not kept",
    ],
  ];
  return (
    <dl className="grid grid-cols-[9rem_1fr] gap-x-3 gap-y-1.5 border-l-4 border-action bg-panel px-3 py-2 text-sm">
      {rows.map(([name, what]) => (
        <Fragment key={name}>
          <dt className="label">{name}</dt>
          <dd>{what}</dd>
        </Fragment>
      ))}
    </dl>
  );
}
