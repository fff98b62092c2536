import type { Report } from "@gearsense/core/report";
import { renderPdf } from "./pdf.ts";

export interface PdfTask {
  readonly report: Report;
  /** JPEG of each photo that is shown, by its id */
  readonly pictures: ReadonlyMap<string, Uint8Array>;
}

/** Draws a PDF beside the requests. */
export type DrawPdf = (task: PdfTask, signal?: AbortSignal) => Promise<Uint8Array>;

/** Entry of the worker threads; piscina calls the default export. */
export default async function run({ report, pictures }: PdfTask): Promise<Uint8Array> {
  return renderPdf(report, new Map([...pictures].map(([id, jpeg]) => [id, Buffer.from(jpeg)])));
}
