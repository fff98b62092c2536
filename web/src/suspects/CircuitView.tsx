import type { JobView, SuspectsView } from "@gearsense/contract";
import type { Unit } from "@gearsense/core/unit";
import { Link } from "react-router";

type Circuit = NonNullable<SuspectsView["circuit"]>;
type Segment = Circuit["segments"][number];

const ROW = 46;
const NET_GAP = 18;
const TOP = 26;
const PIN_X = 150;
const SPLICE_X = 330;
const PART_X = 500;
const WIDTH = 720;

/** Colour, dash and sign of a state: colour is never alone. */
const LOOK: Record<Segment["state"], { stroke: string; dash: string; sign: string; word: string }> = {
  cleared: { stroke: "var(--clear)", dash: "", sign: "✓", word: "cleared" },
  bad: { stroke: "var(--stop)", dash: "2 3", sign: "×", word: "measured bad" },
  suspect: { stroke: "var(--action)", dash: "9 5", sign: "?", word: "still suspect" },
  open: { stroke: "var(--quiet)", dash: "1 5", sign: "·", word: "unlikely alone" },
};
const PLAIN = { stroke: "var(--rule)", dash: "", sign: "", word: "" };

/** The circuit of what is dead, from the controller's pins through the splices to the parts; below it what to measure next. */
export function CircuitView({
  unit,
  circuit,
  onRecord,
  sourceOfEntry,
}: {
  unit: JobView["unit"];
  circuit: Circuit;
  /** opens the form of a check, by its id */
  onRecord: ((checkId: string) => void) | undefined;
  sourceOfEntry: (entryId: string) => string | undefined;
}) {
  const [next, ...others] = circuit.readings;
  return (
    <section aria-label="Wiring" className="flex flex-col gap-3">
      <p className="text-lg">{circuit.verdict}</p>
      <Drawing unit={unit as Unit} circuit={circuit} />
      <div className="grid gap-4 lg:grid-cols-2">
        <div className="flex flex-col gap-3">
          {next && (
            <div className="border-l-4 border-action bg-panel p-3">
              <h3 className="text-[17px]">Measure next: {next.title}</h3>
              <p className="text-quiet">{next.condition}</p>
              <dl className="mt-1 grid grid-cols-[84px_1fr] gap-x-2">
                <dt className="label text-quiet">{next.touch[1] ? "red lead" : "do"}</dt>
                <dd>{next.touch[0]}</dd>
                {next.touch[1] && (
                  <>
                    <dt className="label text-quiet">black lead</dt>
                    <dd>{next.touch[1]}</dd>
                  </>
                )}
                <dt className="label text-quiet">expect</dt>
                <dd className="label">{next.expect}</dd>
                <dt className="label text-quiet">good clears</dt>
                <dd>{next.clears.join("; ")}</dd>
                <dt className="label text-quiet">bad leaves</dt>
                <dd>it alone</dd>
              </dl>
              {onRecord && (
                <button
                  type="button"
                  className="label mt-2 min-h-11 border border-field bg-ground px-3"
                  onClick={() => onRecord(next.checkId)}
                >
                  Record this reading
                </button>
              )}
            </div>
          )}
          {others.length > 0 && (
            <details>
              <summary className="label cursor-pointer">Other readings ({others.length})</summary>
              <ul>
                {others.map((r) => (
                  <li key={r.checkId} className="border-b border-rule py-1.5">
                    {r.title}:{" "}
                    <span className="text-quiet">
                      {r.touch.filter(Boolean).join(" and ")}; {r.expect}
                    </span>
                    {onRecord && (
                      <button
                        type="button"
                        className="label ml-2 min-h-11 underline"
                        onClick={() => onRecord(r.checkId)}
                        aria-label={`Record: ${r.title}`}
                      >
                        Record
                      </button>
                    )}
                  </li>
                ))}
              </ul>
            </details>
          )}
        </div>
        <div>
          <table className="w-full text-left">
            <caption className="sr-only">Pieces of the circuit</caption>
            <tbody>
              {[...circuit.segments]
                .sort((a, b) => ORDER.indexOf(a.state) - ORDER.indexOf(b.state))
                .map((s) => {
                  const to = s.entryId ? sourceOfEntry(s.entryId) : undefined;
                  return (
                    <tr key={s.id} className="border-b border-rule align-top">
                      <th className="w-7 py-1 font-normal" style={{ color: LOOK[s.state].stroke }}>
                        <span aria-hidden="true" className="label text-lg">
                          {LOOK[s.state].sign}
                        </span>
                      </th>
                      <td className="py-1 pr-2">
                        {s.title}
                        <span className="block text-sm text-quiet">
                          {LOOK[s.state].word}:{" "}
                          {to ? (
                            <Link className="underline" to={to}>
                              {s.because}
                            </Link>
                          ) : (
                            s.because
                          )}
                        </span>
                      </td>
                    </tr>
                  );
                })}
            </tbody>
          </table>
        </div>
      </div>
    </section>
  );
}
const ORDER: readonly Segment["state"][] = ["bad", "suspect", "open", "cleared"];

function Drawing({ unit, circuit }: { unit: Unit; circuit: Circuit }) {
  const state = new Map(circuit.segments.map((s) => [s.id, s.state]));
  const look = (id: string) => {
    const s = state.get(id);
    return s ? LOOK[s] : PLAIN;
  };
  const dead = new Set(circuit.dead.map((d) => d.component));
  const nets = unit.nets.filter((n) => n.connects.some((c) => dead.has(c)));
  const name = (id: string) => [...unit.sensors, ...unit.solenoids].find((p) => p.id === id)?.name ?? id;
  let y = TOP;
  const rows = nets.map((net) => {
    const parts = net.connects;
    const from = y;
    y += parts.length * ROW + NET_GAP;
    return { net, parts, from };
  });
  const height = y;
  const words = circuit.segments.map((s) => `${s.title}: ${LOOK[s.state].word}`).join(". ");
  return (
    <div className="overflow-x-auto border border-rule bg-panel p-2">
      <svg
        viewBox={`0 0 ${WIDTH} ${height}`}
        style={{ minWidth: 520, width: "100%", maxWidth: 900 }}
        role="img"
        aria-label={words}
      >
        <rect x={4} y={8} width={PIN_X - 18} height={height - 20} fill="none" stroke="var(--ink)" strokeWidth="2" />
        <text x={14} y={28} className="label" fontSize="15" fill="var(--ink)">
          Control unit
        </text>
        {rows.map(({ net, parts, from }) => {
          const middle = from + (parts.length * ROW) / 2;
          const shared = parts.length > 1;
          const trunk = look(`trunk:${net.id}`);
          return (
            <g key={net.id}>
              <rect x={PIN_X - 20} y={middle - 7} width="12" height="14" fill="var(--ink)" />
              <text x={PIN_X - 26} y={middle + 5} textAnchor="end" fontSize="13" fill="var(--quiet)">
                {net.pins}
              </text>
              <text x={PIN_X + 6} y={middle - 9} className="label" fontSize="14" fill="var(--ink)">
                {net.name}
              </text>
              <text x={PIN_X + 6} y={middle + 17} fontSize="12" fill="var(--quiet)">
                {net.kind}
                {net.wires ? `, ${net.wires}` : ""}
                {net.volts === undefined ? "" : `, ${net.volts} V`}
              </text>
              <line
                x1={PIN_X - 8}
                x2={shared ? SPLICE_X : PART_X}
                y1={middle}
                y2={middle}
                stroke={trunk.stroke}
                strokeWidth="3.5"
                strokeDasharray={trunk.dash}
              />
              <text x={(PIN_X + SPLICE_X) / 2 + 62} y={middle - 7} className="label" fontSize="18" fill={trunk.stroke}>
                {trunk.sign}
              </text>
              {shared && <circle cx={SPLICE_X} cy={middle} r="5" fill="var(--ink)" />}
              {parts.map((part, i) => {
                const at = shared ? from + (i + 0.5) * ROW : middle;
                const branch = look(`branch:${net.id}:${part}`);
                const own = look(`part:${part}`);
                return (
                  <g key={part}>
                    {shared && (
                      <path
                        d={`M${SPLICE_X} ${middle} L${SPLICE_X + 34} ${at} H${PART_X}`}
                        fill="none"
                        stroke={branch.stroke}
                        strokeWidth="3"
                        strokeDasharray={branch.dash}
                      />
                    )}
                    {shared && branch.sign && (
                      <text x={PART_X - 40} y={at - 6} className="label" fontSize="16" fill={branch.stroke}>
                        {branch.sign}
                      </text>
                    )}
                    <rect
                      x={PART_X}
                      y={at - 16}
                      width={WIDTH - PART_X - 8}
                      height="32"
                      fill="var(--ground)"
                      stroke={own.stroke}
                      strokeWidth="2.5"
                      strokeDasharray={own.dash}
                    />
                    <text
                      x={PART_X + 8}
                      y={at + 5}
                      className="label"
                      fontSize="14.5"
                      fill={dead.has(part) ? "var(--stop)" : "var(--ink)"}
                    >
                      {own.sign} {name(part)}
                      {dead.has(part) ? " · dead" : ""}
                    </text>
                  </g>
                );
              })}
            </g>
          );
        })}
      </svg>
      <p className="flex flex-wrap gap-x-4 text-sm text-quiet">
        {ORDER.map((s) => (
          <span key={s}>
            <span aria-hidden="true" className="label" style={{ color: LOOK[s].stroke }}>
              {LOOK[s].sign}
            </span>{" "}
            {LOOK[s].word}
          </span>
        ))}
      </p>
    </div>
  );
}
