import type { CopyRuleData, CopyView } from "@gearsense/contract";
import { Download } from "lucide-react";
import { useRef, useState } from "react";
import { ApiFailure, urlOf } from "../api/client.ts";
import { useCopies } from "../api/shop-queries.ts";
import { Button, Notice, Progress, SelectField } from "../shared/controls.tsx";
import { FileButton } from "../shared/FileButton.tsx";
import { NumberField } from "../shared/NumberField.tsx";
import { Restore, type RestoreFrom } from "./Restore.tsx";

const EVERY: readonly [CopyRuleData["everyHours"], string][] = [
  [6, "every 6 hours"],
  [24, "every day"],
  [168, "every week"],
  [0, "never by itself"],
];
const WHY: Readonly<Record<CopyView["why"], string>> = { kept: "", "before-update": "before an update" };
const size = (bytes: number) =>
  bytes < 1e6
    ? `${Math.ceil(bytes / 1e3)} kB`
    : bytes < 1e9
      ? `${(bytes / 1e6).toFixed(1)} MB`
      : `${(bytes / 1e9).toFixed(2)} GB`;
const day = (iso: string) => `${iso.slice(0, 10)} ${iso.slice(11, 16)} UTC`;

/** Everything as one file: fetched, kept by itself, put back. @param shop - its name, typed to confirm a restore */
export function Backups({ shop }: { shop: string }) {
  const { copies, make, keep } = useCopies();
  const { data, error } = copies;
  const [from, setFrom] = useState<RestoreFrom>();
  const stop = useRef<AbortController | undefined>(undefined);
  const start = () => {
    stop.current = new AbortController();
    make.mutate(stop.current.signal, { onSettled: () => void copies.refetch() });
    void copies.refetch();
  };
  const calledOff = make.error instanceof DOMException;
  const trouble = error ?? (calledOff ? null : make.error);
  const running = make.isPending || (data?.running ?? null) !== null;
  return (
    <section aria-label="Backups" className="flex flex-col gap-3 border border-rule bg-panel p-4">
      <h2 className="text-xl">Backups</h2>
      <p className="text-quiet">
        All jobs, logs, photos, units, people and prices as one open archive. Whoever has it can read everything in it:
        keep it where the shop’s papers are kept, and one away from the shop.
      </p>
      {trouble && (
        <Notice tone="stop" live>
          {trouble.message}
        </Notice>
      )}
      {data?.trouble && (
        <Notice tone="stop" title={`The copy that was due on ${day(data.trouble.at)} could not be made`}>
          {data.trouble.message}
        </Notice>
      )}
      <div className="flex flex-wrap items-center gap-3">
        <a
          href={urlOf("backup")}
          download
          className="label inline-flex min-h-11 items-center gap-2 border border-field bg-panel px-4"
        >
          <Download aria-hidden="true" className="size-5" />
          Download a backup
        </a>
        {data?.alone && (
          <FileButton
            label="Backup to restore"
            accept=".tar,application/x-tar"
            onFile={(file) => setFrom({ name: file.name, file })}
          >
            Restore from a file …
          </FileButton>
        )}
      </div>
      {data && !data.alone && (
        <p className="text-quiet">
          Other shops are on this server: the download holds yours alone, and copies of everything are fetched and
          restored by whoever runs the server.
        </p>
      )}
      {from && <Restore from={from} shop={shop} onClose={() => setFrom(undefined)} />}
      {data && !data.kept && (
        <p className="text-quiet">No copies are kept on this server: BACKUP_FOLDER isn’t set where it is started.</p>
      )}
      {data?.kept && (
        <>
          <h3 className="text-lg">Copies on the server</h3>
          <Rule rule={data.rule} keep={keep} />
          {data.copies.length === 0 && <p className="text-quiet">None yet.</p>}
          <ul>
            {data.copies.map((c) => (
              <li
                key={c.name}
                className="flex min-h-11 flex-wrap items-center gap-x-4 gap-y-1 border-b border-rule last:border-0"
              >
                <span className="figures">{day(c.madeAt)}</span>
                <span className="figures">{size(c.bytes)}</span>
                <span className="flex-1 text-quiet">{WHY[c.why]}</span>
                {data.alone && (
                  <>
                    <a
                      href={urlOf("copy", { name: c.name })}
                      download
                      className="label inline-flex min-h-11 items-center px-2 underline"
                      aria-label={`Download the copy of ${day(c.madeAt)}`}
                    >
                      Download
                    </a>
                    <Button
                      tone="quiet"
                      aria-label={`Restore the copy of ${day(c.madeAt)}`}
                      onClick={() => setFrom({ name: `the copy of ${day(c.madeAt)}`, copy: c.name })}
                    >
                      Restore …
                    </Button>
                  </>
                )}
              </li>
            ))}
          </ul>
          {running ? (
            <Progress
              label={`A copy is being made: ${size(data.running ?? 0)} so far`}
              share={undefined}
              {...(make.isPending ? { onCancel: () => stop.current?.abort() } : {})}
            />
          ) : (
            <Button className="self-end" onClick={start}>
              Make a copy now
            </Button>
          )}
        </>
      )}
    </section>
  );
}

/** How often, and how many are kept. */
function Rule({ rule, keep }: { rule: CopyRuleData; keep: ReturnType<typeof useCopies>["keep"] }) {
  const [typed, setTyped] = useState<{ everyHours: CopyRuleData["everyHours"]; keep: number | null }>();
  const value = typed ?? rule;
  const wrong = keep.error instanceof ApiFailure ? keep.error.fields.keep : undefined;
  return (
    <form
      noValidate
      aria-label="When copies are made"
      className="flex flex-wrap items-end gap-3"
      onSubmit={(e) => {
        e.preventDefault();
        keep.mutate(
          { everyHours: value.everyHours, keep: value.keep ?? Number.NaN },
          { onSuccess: () => setTyped(undefined) },
        );
      }}
    >
      <SelectField
        label="A copy is made"
        className="w-52"
        value={value.everyHours}
        onChange={(e) => setTyped({ ...value, everyHours: Number(e.target.value) as CopyRuleData["everyHours"] })}
      >
        {EVERY.map(([hours, words]) => (
          <option key={hours} value={hours}>
            {words}
          </option>
        ))}
      </SelectField>
      <NumberField
        label="Newest that are kept"
        decimals={0}
        value={value.keep}
        onChange={(n) => setTyped({ ...value, keep: n })}
        error={wrong}
      />
      <Button type="submit" disabled={typed === undefined || keep.isPending}>
        Save
      </Button>
    </form>
  );
}
