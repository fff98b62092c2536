import type { Finding } from "@gearsense/core/drive";
import { conditionsText, limitText, measuresText } from "@gearsense/core/report";
import clsx from "clsx";
import { useSettings } from "../settings/settings.tsx";

interface Props {
  readonly findings: readonly Finding[];
  readonly selected: string | undefined;
  readonly onSelect: (id: string) => void;
}

/** Each finding with conditions, measure, limit and its source, and how sure it is. A row leads to its span of the trace. */
export function FindingsTable({ findings, selected, onSelect }: Props) {
  const { system, show } = useSettings();
  return (
    <table className="w-full text-left">
      <thead>
        <tr className="border-b border-ink">
          <th className="w-8 py-1">#</th>
          <th>Finding</th>
          <th className="hidden sm:table-cell">Conditions</th>
          <th>Measured</th>
          <th className="hidden sm:table-cell">Limit</th>
          <th className="hidden sm:table-cell">Sure</th>
        </tr>
      </thead>
      <tbody>
        {findings.map((f, i) => (
          <tr key={f.id} className={clsx("border-b border-rule align-top", selected === f.id && "bg-action-wash")}>
            <td className="figures py-1.5 text-lg text-action">{i + 1}</td>
            <td className="pr-3 sm:min-w-44">
              <button
                type="button"
                onClick={() => onSelect(f.id)}
                className="label min-h-11 text-left underline decoration-field underline-offset-4 hover:decoration-ink"
              >
                {f.title}
              </button>
              <span className="block text-sm text-quiet">
                {f.occurrences.length > 1 ? `${f.occurrences.length} times, ` : ""}
                {show(f.startS, "duration", 0)} to {show(f.endS, "duration", 0)}
              </span>
              {/* a phone has room for two columns: the rest stands here */}
              <span className="block pb-1 text-sm sm:hidden">
                {[
                  conditionsText(f, system),
                  `limit ${limitText(f, system)}`,
                  `${f.confidence.level}: ${f.confidence.reason}`,
                ]
                  .filter(Boolean)
                  .join(" · ")}
              </span>
            </td>
            <td className="hidden py-1.5 pr-3 sm:table-cell">{conditionsText(f, system)}</td>
            <td className="figures py-1.5 pr-3 text-[17px]">{measuresText(f, system)}</td>
            <td className="figures hidden py-1.5 pr-3 sm:table-cell">{limitText(f, system)}</td>
            <td className="hidden py-1.5 sm:table-cell">
              <span className="label">{f.confidence.level}</span>
              <span className="block text-sm text-quiet">
                {f.confidence.reason}
                {f.confidence.raise ? `; to be surer: ${f.confidence.raise}` : ""}
              </span>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
