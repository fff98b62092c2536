import type { Unit } from "@gearsense/core/unit";
import clsx from "clsx";
import { format } from "date-fns";
import { Download } from "lucide-react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import { useJobQuery, useSession, useSuspects, useUnits, useUnitVersion, useUnitVersions } from "../api/queries.ts";
import { useShortcuts } from "../keys/shortcuts.tsx";
import { Button, Notice } from "../shared/controls.tsx";
import { TopBar } from "../shared/TopBar.tsx";
import { GearsPart } from "./GearsPart.tsx";
import { KIND_WORDS } from "./kind-words.ts";
import { ServicePart } from "./ServicePart.tsx";
import { SolenoidsPart } from "./SolenoidsPart.tsx";
import { saveUnitFile } from "./unit-file.ts";
import { WiringPart } from "./WiringPart.tsx";

const PARTS = [
  { id: "gears", label: "Gears and train" },
  { id: "solenoids", label: "Solenoids, what if" },
  { id: "wiring", label: "Sensors and wiring" },
  { id: "service", label: "Fluid and service" },
] as const;

/** Everything a unit file says, read as a technician does. From a job it shows the version that the job was diagnosed with. */
export default function UnitPage() {
  const { unit: id = "", part = "gears" } = useParams();
  const [search] = useSearchParams();
  const jobId = search.get("job");
  const version = search.get("version");
  if (jobId) return <OfJob jobId={jobId} part={part} />;
  return version ? <OfVersion id={id} version={version} part={part} /> : <OfLibrary id={id} part={part} />;
}

function OfJob({ jobId, part }: { jobId: string; part: string }) {
  const job = useJobQuery(jobId);
  const { data: suspects } = useSuspects(jobId);
  if (job.error) return <Missing message={job.error.message} />;
  if (!job.data) return <Loading />;
  const chart = suspects && Object.keys(suspects.chart.outcomes).length > 0 ? suspects.chart : undefined;
  return (
    <Sheet
      unit={job.data.unit as Unit}
      part={part}
      query={`?job=${jobId}`}
      chart={chart}
      from={{ to: `/jobs/${jobId}`, label: `Job ${job.data.number}` }}
    />
  );
}

function OfLibrary({ id, part }: { id: string; part: string }) {
  const units = useUnits();
  if (units.error) return <Missing message={units.error.message} />;
  if (!units.data) return <Loading />;
  const unit = units.data.find((u) => u.id === id);
  if (!unit) return <Missing message={`Neither the library nor your shop has a unit "${id}".`} />;
  return <Sheet unit={unit as Unit} part={part} query="" chart={undefined} from={{ to: "/units", label: "Units" }} />;
}

function OfVersion({ id, version, part }: { id: string; version: string; part: string }) {
  const unit = useUnitVersion(id, version);
  if (unit.error) return <Missing message={unit.error.message} />;
  if (!unit.data) return <Loading />;
  return (
    <Sheet
      unit={unit.data as Unit}
      part={part}
      query={`?version=${version}`}
      chart={undefined}
      from={{ to: "/units", label: "Units" }}
    />
  );
}

const Loading = () => (
  <p role="status" className="p-8 text-quiet">
    Loading the unit …
  </p>
);

function Missing({ message }: { message: string }) {
  const navigate = useNavigate();
  return (
    <main className="p-6">
      <Notice
        tone="stop"
        title="This unit cannot be shown"
        live
        actions={<Button onClick={() => void navigate("/units")}>Units</Button>}
      >
        {message}
      </Notice>
    </main>
  );
}

function Sheet({
  unit,
  part,
  query,
  chart,
  from,
}: {
  unit: Unit;
  part: string;
  query: string;
  chart: Parameters<typeof GearsPart>[0]["chart"];
  from: { to: string; label: string };
}) {
  const navigate = useNavigate();
  const { data: session } = useSession();
  const { data: versions } = useUnitVersions(unit.id);
  const go = (id: string) => void navigate(`/units/${unit.id}/${id}${query}`);
  useShortcuts([
    ...PARTS.map((p, i) => ({ key: String(i + 1), label: p.label, group: "Unit", run: () => go(p.id) })),
    { key: "Escape", label: `Back to ${from.label}`, group: "Unit", run: () => void navigate(from.to) },
  ]);
  const newest = versions?.[0];
  return (
    <div className="flex h-full min-h-0 flex-col">
      <TopBar>
        <Link to={from.to} className="label text-lg underline underline-offset-4">
          {from.label}
        </Link>
        <span className="label truncate text-2xl">{unit.name}</span>
        <span className="hidden truncate text-quiet xl:inline">
          {KIND_WORDS[unit.kind]} · {unit.layout} · version {unit.version}
          {newest && newest.version !== unit.version ? ` (newest is ${newest.version})` : ""}
        </span>
      </TopBar>
      <main className="min-h-0 flex-1 overflow-y-auto p-5">
        <div className="mb-4 flex flex-wrap items-end justify-between gap-3">
          <div className="max-w-prose min-w-0">
            <h1 className="sr-only">{unit.name}</h1>
            <p>{unit.description}</p>
            {newest?.at && (
              <nav aria-label="Versions" className="flex flex-wrap items-center gap-x-3 text-sm text-quiet">
                {versions?.map((v) => (
                  <Link
                    key={v.version}
                    to={`/units/${unit.id}/${part}?version=${v.version}`}
                    aria-current={v.version === unit.version ? "true" : undefined}
                    className={clsx(
                      "inline-flex min-h-11 items-center",
                      v.version === unit.version ? "font-semibold text-ink" : "underline underline-offset-4",
                    )}
                  >
                    version {v.version}, {v.author}
                    {v.at ? `, ${format(new Date(v.at), "d MMM yyyy")}` : ""}
                  </Link>
                ))}
              </nav>
            )}
          </div>
          <div className="flex gap-2">
            <Button onClick={() => saveUnitFile(unit)}>
              <Download aria-hidden="true" className="size-5" />
              Unit file
            </Button>
            {session?.account.role !== "viewer" && (
              <Button onClick={() => void navigate(`/units/${unit.id}/edit`)}>
                {newest?.author === "library" ? "Make one like it" : "Edit"}
              </Button>
            )}
          </div>
        </div>
        <nav aria-label="Parts of the unit" className="mb-4 flex flex-wrap border-b-2 border-ink">
          {PARTS.map((p) => (
            <Link
              key={p.id}
              to={`/units/${unit.id}/${p.id}${query}`}
              aria-current={part === p.id ? "page" : undefined}
              className={clsx(
                "label inline-flex min-h-11 items-center px-4 text-[17px]",
                part === p.id ? "bg-slate text-on-slate" : "hover:bg-panel",
              )}
            >
              {p.label}
            </Link>
          ))}
        </nav>
        {part === "solenoids" ? (
          <SolenoidsPart unit={unit} />
        ) : part === "wiring" ? (
          <WiringPart unit={unit} />
        ) : part === "service" ? (
          <ServicePart unit={unit} />
        ) : (
          <GearsPart unit={unit} chart={chart} />
        )}
      </main>
    </div>
  );
}
