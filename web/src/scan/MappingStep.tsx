import {
  CHANNELS,
  channelSpec,
  type Dialect,
  type DialectChoice,
  type MappingGuess,
  MEASURE_UNITS,
} from "@gearsense/core/log";
import clsx from "clsx";
import { useEffect, useState } from "react";
import { Button } from "../shared/controls.tsx";
import { download } from "../shared/download.ts";
import { FileButton } from "../shared/FileButton.tsx";
import { Report } from "./ImportReport.tsx";
import type { Import, MappingPhase } from "./useImport.ts";

const sureness = (c: number) => (c >= 0.85 ? "sure" : c >= 0.6 ? "likely" : c > 0 ? "check this" : "not used");

const ROWS_A_FRAME = 8;

/** A count that grows frame by frame: a table of many rows is laid out in pieces that do not hold the page. */
function useGrowing(total: number): number {
  const [count, setCount] = useState(ROWS_A_FRAME);
  useEffect(() => {
    if (count >= total) return;
    const next = requestAnimationFrame(() => setCount((n) => n + ROWS_A_FRAME));
    return () => cancelAnimationFrame(next);
  }, [count, total]);
  return count;
}

/** How the file was understood, column by column, to be corrected. */
export function MappingStep({ phase, work }: { phase: MappingPhase; work: Import }) {
  const { opened, mapping } = phase;
  const rows = useGrowing(mapping.length);
  const change = (i: number, patch: Partial<MappingGuess>) =>
    work.setMapping(
      mapping.map((m, k) => (k === i ? { ...m, ...patch, confidence: 1, reason: "set by hand", rivals: [] } : m)),
    );
  const extra = mapping
    .map((m) => m.channel)
    .filter((c): c is string => c !== null && !CHANNELS.some((k) => k.id === c));
  const d = opened.dialect;
  return (
    <div className="flex flex-col gap-3">
      <div className="flex items-end justify-between gap-4">
        <div>
          <h2 className="text-xl">{phase.fileName}: what each column is</h2>
          <p className="text-quiet">
            {opened.rows} {opened.layout === "capture" ? "frames" : "rows"}
            {opened.container === "none" ? "" : `, out of a ${opened.container} archive`}, {opened.encoding}
            {opened.layout === "long" ? ", one reading a line" : ""}
            {d?.unitLine ? `, units in line ${d.unitLine}` : ""}. Correct what is wrong.
          </p>
        </div>
        <div className="flex shrink-0 gap-2">
          <Button onClick={work.cancel}>Not now</Button>
          <Button tone="primary" disabled={!work.report} onClick={() => void work.analyse()} data-primary>
            Analyse the drive
          </Button>
        </div>
      </div>
      <div className="flex flex-wrap items-end gap-4 border border-rule bg-panel p-3">
        {d && <DialectFields dialect={d} onChange={work.setDialect} />}
        <ProfileFields phase={phase} work={work} />
      </div>
      {work.report && <Report report={work.report} />}
      <div className="max-h-[max(300px,calc(100vh-345px))] overflow-auto border border-rule bg-panel">
        <table className="w-full text-left">
          <thead className="sticky top-0 bg-panel">
            <tr className="border-b border-ink">
              <th className="p-2">Column of the file</th>
              <th className="p-2">Channel</th>
              <th className="p-2">Unit</th>
              <th className="p-2">Guess</th>
              <th className="p-2">First values</th>
            </tr>
          </thead>
          <tbody>
            {mapping.slice(0, rows).map((m, i) => {
              const quantity = m.channel ? channelSpec(m.channel)?.quantity : undefined;
              const units = MEASURE_UNITS.filter((u) => u.quantity === quantity);
              return (
                <tr
                  key={m.column}
                  className={clsx(
                    "border-b border-rule",
                    m.channel !== null && m.confidence < 0.6 && "bg-caution-wash",
                  )}
                >
                  <td className="p-2">
                    <span className="label">{m.header}</span>
                    {m.unitText && <span className="text-quiet"> [{m.unitText}]</span>}
                  </td>
                  <td className="p-1">
                    <ChannelSelect
                      label={`Channel of ${m.header}`}
                      value={m.channel}
                      extra={extra}
                      onChange={(channel) => change(i, { channel, unit: null })}
                    />
                  </td>
                  <td className="p-1">
                    {units.length > 0 && (
                      <select
                        aria-label={`Unit of ${m.header}`}
                        value={m.unit ?? ""}
                        onChange={(e) => change(i, { unit: e.target.value || null })}
                        className="min-h-11 border border-field bg-panel px-2"
                      >
                        <option value="">as it is</option>
                        {units.map((u) => (
                          <option key={u.label} value={u.label}>
                            {u.label}
                          </option>
                        ))}
                      </select>
                    )}
                  </td>
                  <td className="p-2">
                    <span className="label">{sureness(m.confidence)}</span>{" "}
                    {m.confidence > 0 && <span className="figures text-quiet">{Math.round(m.confidence * 100)} %</span>}
                    <span className="ml-1 text-sm text-quiet">{m.reason}</span>
                    {m.rivals.length > 0 && (
                      <span className="block text-sm">
                        or{" "}
                        {m.rivals
                          .map((r) => `${channelSpec(r.channel)?.label ?? r.channel} ${Math.round(r.score * 100)} %`)
                          .join(", ")}
                      </span>
                    )}
                  </td>
                  <td className="figures p-2 text-quiet">{m.samples.join(" · ")}</td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
    </div>
  );
}

/**
 * The channel of a column. The list is put in when somebody reaches for it: a file of thirty columns would else be set up
 * with two thousand options, which holds the page.
 */
function ChannelSelect({
  label,
  value,
  extra,
  onChange,
}: {
  label: string;
  value: string | null;
  extra: readonly string[];
  onChange: (channel: string | null) => void;
}) {
  const [open, setOpen] = useState(false);
  const listed = open ? [...CHANNELS.map((c) => c.id), ...extra] : value === null ? [] : [value];
  return (
    <select
      aria-label={label}
      value={value ?? ""}
      onFocus={() => setOpen(true)}
      onPointerDown={() => setOpen(true)}
      onChange={(e) => onChange(e.target.value || null)}
      className="min-h-11 w-full min-w-40 border border-field bg-panel px-2"
    >
      <option value="">not used</option>
      {listed.map((id) => (
        <option key={id} value={id}>
          {channelSpec(id)?.label ?? id}
        </option>
      ))}
    </select>
  );
}

const selectClass = "min-h-11 border border-field bg-panel px-2";

/** How the file is written: the guess with its sureness, to be corrected. */
function DialectFields({ dialect, onChange }: { dialect: Dialect; onChange: (d: DialectChoice) => void }) {
  return (
    <>
      <label className="flex flex-col">
        <span className="label text-sm">Between the cells</span>
        <select
          className={selectClass}
          value={dialect.delimiter}
          onChange={(e) => onChange({ delimiter: e.target.value as Dialect["delimiter"] })}
        >
          <option value=",">comma</option>
          <option value=";">semicolon</option>
          <option value={"\t"}>tab</option>
          <option value="|">bar</option>
        </select>
      </label>
      <label className="flex flex-col">
        <span className="label text-sm">Decimals after a</span>
        <select
          className={selectClass}
          value={dialect.decimalComma ? "comma" : "point"}
          onChange={(e) => onChange({ decimalComma: e.target.value === "comma" })}
        >
          <option value="point">point</option>
          <option value="comma">comma</option>
        </select>
      </label>
      <label className="flex flex-col">
        <span className="label text-sm">Header in line</span>
        <input
          type="number"
          min={1}
          max={200}
          className={`${selectClass} w-24`}
          value={dialect.headerLine}
          onChange={(e) => {
            const n = Number(e.target.value);
            if (Number.isInteger(n) && n >= 1) onChange({ headerLine: n });
          }}
        />
      </label>
      <p className="min-h-11 content-center text-sm text-quiet">{Math.round(dialect.confidence * 100)} % sure</p>
    </>
  );
}

/** The profile whose word is taken, and keeping this reading under a name for the next file of the same source. */
function ProfileFields({ phase, work }: { phase: MappingPhase; work: Import }) {
  const [name, setName] = useState(phase.profile ?? "");
  const [kept, setKept] = useState<string | undefined>();
  const current = work.profiles.find((p) => p.name === phase.profile);
  return (
    <div className="ml-auto flex flex-wrap items-end gap-2">
      {work.profiles.length > 0 && (
        <label className="flex flex-col">
          <span className="label text-sm">Read as</span>
          <select
            className={selectClass}
            value={phase.profile ?? ""}
            onChange={(e) => {
              setName(e.target.value);
              setKept(undefined);
              work.setProfile(e.target.value);
            }}
          >
            <option value="">guessed</option>
            {work.profiles.map((p) => (
              <option key={p.name} value={p.name}>
                {p.name}
              </option>
            ))}
          </select>
        </label>
      )}
      <label className="flex flex-col">
        <span className="label text-sm">Source of the file</span>
        <input
          className={`${selectClass} w-48`}
          value={name}
          maxLength={80}
          placeholder="scan tool, bay 2"
          onChange={(e) => {
            setName(e.target.value);
            setKept(undefined);
          }}
        />
      </label>
      <Button
        disabled={name.trim() === ""}
        onClick={() => void work.remember(name.trim()).then((ok) => setKept(ok ? name.trim() : undefined))}
      >
        {kept === name.trim() ? "Remembered" : "Remember for this source"}
      </Button>
      <FileButton
        tone="quiet"
        label="Import profile file"
        accept=".json,application/json"
        onFile={(f) =>
          void work.takeProfile(f).then((taken) => {
            if (taken) setName(taken);
          })
        }
      >
        Take from file
      </FileButton>
      {current && (
        <Button
          tone="quiet"
          onClick={() =>
            download(
              `${current.name.replace(/[^\w.-]+/g, "-")}.profile.json`,
              new Blob([JSON.stringify(current, null, 1)], { type: "application/json" }),
            )
          }
        >
          Save as file
        </Button>
      )}
    </div>
  );
}
