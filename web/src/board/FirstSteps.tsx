import { Check } from "lucide-react";
import { Link } from "react-router";
import { usePeople, useReach } from "../api/shop-queries.ts";

/** The first ten minutes of a shop, for its owner: what is done is ticked by itself. */
export function FirstSteps() {
  const { data: people } = usePeople(true);
  const { data: reach } = useReach(true);
  const steps = [
    { done: true, title: "The shop has a name, a rate and an owner", text: "Changed on the shop’s page.", to: "/shop" },
    {
      done: (people?.length ?? 1) > 1,
      title: "Add the technicians",
      text: "Everybody signs in by name: what is written bears it.",
      to: "/shop",
    },
    {
      done: reach !== undefined && !reach.loopback,
      title: "Let phones and tablets in",
      text: reach?.loopback
        ? "Stop Gearsense and start it with --host 0.0.0.0; the shop’s page then shows a code to scan."
        : "Scan the code on the shop’s page.",
      to: "/shop",
    },
    {
      done: false,
      title: "Look into the unit library",
      text: "Is the transmission you see most in it? Prices and limits are yours to change.",
      to: "/units",
    },
    {
      done: false,
      title: "Open the first job",
      text: "Vehicle, transmission, the complaint in the customer’s words. No scan log at hand? Each job has sample logs.",
      to: "/jobs/new",
    },
  ];
  return (
    <section aria-label="First steps" className="mx-auto max-w-3xl border border-rule bg-panel p-5">
      <h2 className="text-2xl">The first ten minutes</h2>
      <ol className="mt-2">
        {steps.map((s, i) => (
          <li key={s.title} className="flex items-start gap-3 border-b border-rule py-2 last:border-0">
            <span
              className={`figures mt-1 flex size-7 shrink-0 items-center justify-center border ${s.done ? "border-clear bg-clear text-on-slate" : "border-field"}`}
            >
              {s.done ? <Check aria-label="done" className="size-5" /> : i + 1}
            </span>
            <span className="min-w-0">
              <Link to={s.to} className="label inline-flex min-h-8 items-center text-[17px] underline">
                {s.title}
              </Link>
              <span className="block text-quiet">{s.text}</span>
            </span>
          </li>
        ))}
      </ol>
    </section>
  );
}
