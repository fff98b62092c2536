import { LinkFile, type LinkFileData } from "@gearsense/contract";
import { drivePlan, NOT_DRIVEN } from "@gearsense/core/drive";
import type { LogRole } from "@gearsense/core/job";
import { channelSpec, channelsToRecord } from "@gearsense/core/log";
import type { Unit } from "@gearsense/core/unit";
import { useState } from "react";
import { useLinkDefinitions, useLookAtLink, type useRecorder, useSuspects } from "../api/queries.ts";
import { useJob } from "../job/job-context.tsx";
import { Cautions, HoldsOpen, useHolds } from "../shared/Caution.tsx";
import { Button, Notice, SelectField, TextField } from "../shared/controls.tsx";
import { FileButton } from "../shared/FileButton.tsx";
import { DrivePlan } from "./DrivePlan.tsx";

type Start = ReturnType<typeof useRecorder>["start"];
const CAUTIONS = ["road-test", "drive-recorder"];
/** Where a vehicle that is simulated with `./gearsense vehicle` listens. */
const USUAL = { host: "127.0.0.1", port: "4190" };

/** One answer of a control unit holds the values of so many channels. */
const CHANNELS_AN_ANSWER = 8;

/** Before the drive: the link, who is at its other end, what is read. */
export function Setup({ when, start }: { when: LogRole; start: Start }) {
  const { job, state } = useJob();
  const [at, setAt] = useState(USUAL);
  const look = useLookAtLink(job.id);
  const { definitions, save, drop } = useLinkDefinitions();
  const [ownName, setOwnName] = useState("");
  const own = definitions.find((d) => d.name === ownName);
  const [ownProblem, setOwnProblem] = useState<string>();
  const [right, setRight] = useState(false);
  const holds = useHolds(CAUTIONS);
  const there = own ? own.channels.map((c) => c.channel) : (look.data?.channels ?? []);
  const { data: suspects } = useSuspects(job.id);
  const judged = suspects !== undefined && suspects.evidence.length > 0;
  const asked = judged
    ? suspects.channels
    : channelsToRecord(job.unit as Unit, state.intake?.body.symptoms.map((s) => s.kind) ?? []);
  const proposed = asked.filter((c) => there.includes(c.channel));
  const [changed, setChanged] = useState<ReadonlySet<string>>(new Set());
  const isOn = (c: string) => proposed.some((p) => p.channel === c) !== changed.has(c);
  const chosen = there.filter(isOn);
  // the control unit that is asked for most tells the pace
  const rateHz = 1000 / ((look.data?.answerMs ?? 0) * Math.max(1, Math.ceil(chosen.length / CHANNELS_AN_ANSWER)));
  const others = there.filter((c) => !proposed.some((p) => p.channel === c));
  const port = Number(at.port);
  const address = { host: at.host.trim(), port };
  const portWrong = !(Number.isInteger(port) && port >= 1 && port <= 65_535);
  const toggle = (c: string) =>
    setChanged((s) => {
      const next = new Set(s);
      if (!next.delete(c)) next.add(c);
      return next;
    });
  const choose = (name: string) => {
    setOwnName(name);
    setChanged(new Set());
  };
  const readOwn = async (file: File) => {
    setOwnProblem(undefined);
    let read: LinkFileData;
    try {
      read = LinkFile.parse(JSON.parse(await file.text()));
    } catch {
      setOwnProblem(
        `${file.name} is not a link definition: a JSON file whose format is "gearsense-link". docs/formats.md tells what stands in it; ./gearsense vehicle --definition writes one.`,
      );
      return;
    }
    save.mutate(read, { onSuccess: () => choose(read.name) });
  };
  return (
    <>
      <Cautions names={CAUTIONS} holds={holds} />
      <form
        aria-label="Link"
        noValidate
        className="flex flex-wrap items-end gap-3 border border-rule bg-panel p-3"
        onSubmit={(e) => {
          e.preventDefault();
          setRight(false);
          if (!portWrong) look.mutate(address);
        }}
      >
        <TextField
          label="Machine"
          value={at.host}
          onChange={(e) => setAt({ ...at, host: e.target.value })}
          className="w-44"
        />
        <TextField
          label="Port"
          inputMode="numeric"
          value={at.port}
          error={portWrong ? "1 to 65535" : undefined}
          onChange={(e) => setAt({ ...at, port: e.target.value })}
          className="w-28"
        />
        <Button type="submit" disabled={look.isPending || portWrong}>
          Look who is there
        </Button>
        {look.isPending && <span role="status">Asking the control units …</span>}
        <p className="basis-full text-sm text-quiet">
          An adapter that speaks frames as lines of text, or the simulated vehicle: ./gearsense vehicle --unit{" "}
          {job.unit.id}. A vehicle that is not simulated is only read from.
        </p>
      </form>
      {look.error && (
        <Notice tone="stop" live>
          {look.error.message}
        </Notice>
      )}
      {look.data && (
        <Notice
          tone="plain"
          title={
            look.data.simulated
              ? "The simulated vehicle is on the line"
              : "A vehicle is on the line: it is only read from"
          }
          live
        >
          Number {look.data.vin ?? "not told"}.{" "}
          {look.data.codes.length === 0
            ? "No codes."
            : `Codes: ${look.data.codes.map((c) => `${c.code} (${c.module})`).join(", ")}.`}
        </Notice>
      )}
      {look.data?.otherVehicle && (
        <Notice tone="stop" title="Another vehicle than the job’s">
          <p>
            The job’s number is {look.data.otherVehicle}, on the line is {look.data.vin}.
          </p>
          <label className="mt-1 flex min-h-11 items-center gap-3">
            <input type="checkbox" className="size-6" checked={right} onChange={(e) => setRight(e.target.checked)} />
            It is the right vehicle all the same
          </label>
        </Notice>
      )}
      {look.data && (
        <section aria-label="Channels" className="border border-rule bg-panel p-3">
          <div className="flex flex-wrap items-center justify-between gap-3">
            <h2 className="text-lg">
              {chosen.length} of {there.length} channels
            </h2>
            <div className="flex flex-wrap items-end gap-3">
              {definitions.length > 0 && (
                <SelectField label="Read by" value={ownName} onChange={(e) => choose(e.target.value)}>
                  <option value="">Usual identifiers</option>
                  {definitions.map((d) => (
                    <option key={d.name}>{d.name}</option>
                  ))}
                </SelectField>
              )}
              {own && (
                <Button
                  tone="quiet"
                  disabled={drop.isPending}
                  onClick={() => drop.mutate(own.name, { onSuccess: () => choose("") })}
                >
                  Forget {own.name}
                </Button>
              )}
              <FileButton label="Own definition" accept=".json,application/json" onFile={(f) => void readOwn(f)}>
                Own definition …
              </FileButton>
            </div>
          </div>
          {(ownProblem ?? save.error ?? drop.error) && (
            <p role="alert" className="font-semibold text-stop">
              {ownProblem ?? (save.error ?? drop.error)?.message}
            </p>
          )}
          <p className="text-quiet">
            {judged ? "Proposed: what tells the suspects apart best. " : "Proposed: what the complaint asks for. "}
            Each control unit answers in turn: the fewer channels, the faster each is read
            {look.data.answerMs > 0 && chosen.length > 0 && (
              <>
                , now about <span className="figures">{rateHz.toFixed(rateHz < 10 ? 1 : 0)}</span> times a second
              </>
            )}
            .
          </p>
          <ul className="mt-1 grid gap-x-6 lg:grid-cols-2">
            {proposed.map((c) => (
              <li key={c.channel} className="border-b border-rule">
                <label className="flex min-h-11 items-center gap-3">
                  <input
                    type="checkbox"
                    className="size-6 shrink-0"
                    checked={isOn(c.channel)}
                    onChange={() => toggle(c.channel)}
                  />
                  <span>
                    <span className="label">{c.label}</span> <span className="text-quiet">{c.why}</span>
                  </span>
                </label>
              </li>
            ))}
          </ul>
          {others.length > 0 && (
            <details className="mt-2">
              <summary className="label min-h-8 cursor-pointer">{others.length} more that it tells</summary>
              <ul className="grid gap-x-6 sm:grid-cols-2 lg:grid-cols-3">
                {others.map((c) => (
                  <li key={c}>
                    <label className="flex min-h-11 items-center gap-3">
                      <input type="checkbox" className="size-6 shrink-0" checked={isOn(c)} onChange={() => toggle(c)} />
                      {channelSpec(c)?.label ?? c}
                    </label>
                  </li>
                ))}
              </ul>
            </details>
          )}
        </section>
      )}
      <section aria-label="Drive plan" className="border border-rule bg-panel p-3">
        <h2 className="text-lg">The drive</h2>
        <p className="text-quiet">
          On roads where it is legal and safe; leave out what your roads don’t allow. The list is struck off as you
          drive.
        </p>
        <DrivePlan plan={drivePlan(job.unit as Unit, NOT_DRIVEN, state.intake?.body.symptoms ?? [])} />
      </section>
      {look.data && (
        <div className="flex flex-wrap items-center justify-end gap-3">
          <HoldsOpen holds={holds} />
          <Button
            tone="primary"
            data-primary
            disabled={
              start.isPending ||
              chosen.length === 0 ||
              holds.open.length > 0 ||
              (look.data.otherVehicle !== null && !right)
            }
            onClick={() =>
              start.mutate({
                ...address,
                channels: chosen,
                role: when,
                otherVehicle: right,
                ...(own ? { definition: own } : {}),
              })
            }
          >
            Record
          </Button>
        </div>
      )}
    </>
  );
}
