import { ArrowLeft, Printer } from "lucide-react";
import { lazy, Suspense } from "react";
import { Link, useParams } from "react-router";
import { urlOf } from "../api/client.ts";
import { useReport } from "../api/queries.ts";
import { useSettings } from "../settings/settings.tsx";
import { Button, Notice } from "../shared/controls.tsx";
import { PlainTable } from "../shared/PlainTable.tsx";
import { Signed } from "../shared/Signed.tsx";
import { TopBar } from "../shared/TopBar.tsx";

const BeforeAfterChart = lazy(() => import("../proof/BeforeAfterChart.tsx"));

/** The report as a page that prints well. */
export default function ReportPage() {
  const { jobId = "" } = useParams();
  const { system } = useSettings();
  const { data: report, error } = useReport(jobId, system);
  return (
    <div className="min-h-full">
      <TopBar>
        <Link to={`/jobs/${jobId}/handover`} className="label inline-flex min-h-11 items-center gap-2 text-lg">
          <ArrowLeft aria-hidden="true" className="size-5" />
          Back to the job
        </Link>
      </TopBar>
      <main className="mx-auto max-w-[860px] p-6 print:max-w-none print:p-0">
        {error && (
          <Notice tone="stop" live>
            {error.message}
          </Notice>
        )}
        {!report && !error && <p role="status">Writing the report …</p>}
        {report && (
          <article>
            <div className="flex items-start justify-between gap-4">
              <div>
                <h1 className="text-3xl">{report.title}</h1>
                <p className="text-quiet">{report.subtitle}</p>
              </div>
              <Button tone="primary" className="no-print" onClick={() => window.print()}>
                <Printer aria-hidden="true" className="size-5" />
                Print
              </Button>
            </div>
            {report.sections.map((s) => (
              <section key={s.id} aria-label={s.title} className="mt-5 break-inside-avoid border-t-2 border-ink pt-2">
                <h2 className="text-xl">{s.title}</h2>
                {s.paragraphs.map((p) => (
                  <p key={p} className="mt-1">
                    {p}
                  </p>
                ))}
                {s.table && s.table.rows.length > 0 && (
                  <div className="overflow-x-auto">
                    <PlainTable columns={s.table.columns} rows={s.table.rows} />
                  </div>
                )}
                {s.signature && s.signature.length > 0 && <Signed strokes={s.signature} />}
                {s.id === "photos" && (
                  <div className="mt-3 grid grid-cols-2 gap-3 sm:grid-cols-3">
                    {report.photos?.map((p) => (
                      <figure key={p.photoId}>
                        <img
                          src={urlOf("photo", { jobId, photoId: p.photoId })}
                          alt={p.caption}
                          className="max-h-44 w-full object-contain"
                        />
                        <figcaption className="text-sm text-quiet">{p.caption}</figcaption>
                      </figure>
                    ))}
                  </div>
                )}
                {s.id === "proof" && report.bars.length > 0 && (
                  <div className="mt-3">
                    <Suspense fallback={null}>
                      <BeforeAfterChart bars={report.bars} />
                    </Suspense>
                  </div>
                )}
              </section>
            ))}
            <p className="mt-6 border-t border-rule pt-2 text-sm">{report.caution}</p>
          </article>
        )}
      </main>
    </div>
  );
}
