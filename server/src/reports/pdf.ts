import { readFileSync } from "node:fs";
import { createRequire } from "node:module";
import type { BeforeAfterBar, Report, ReportTable } from "@gearsense/core/report";
import PDFDocument from "pdfkit";

const require = createRequire(import.meta.url);
const font = (path: string) => readFileSync(require.resolve(path));
const FONTS = {
  text: font("@fontsource/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-400-normal.woff"),
  bold: font("@fontsource/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-700-normal.woff"),
  label: font("@fontsource/barlow-condensed/files/barlow-condensed-latin-600-normal.woff"),
};
const INK = "#20242b";
const QUIET = "#5b5f66";
const RULE = "#b9b4a6";
const ORANGE = "#b8431a";
const SPRUCE = "#1f6b52";
const MARGIN = 46;

/** The fonts have no narrow spaces. */
const plain = (text: string) => text.replace(/[\u202f\u2009]/g, "\u00a0");

/** Draws the report as a PDF. @returns the bytes */
export function renderPdf(report: Report): Promise<Buffer> {
  const doc = new PDFDocument({
    size: "A4",
    margin: MARGIN,
    bufferPages: true,
    info: { Title: report.title, Creator: "Gearsense" },
  });
  for (const [name, data] of Object.entries(FONTS)) doc.registerFont(name, data);
  const done = new Promise<Buffer>((resolve, reject) => {
    const parts: Buffer[] = [];
    doc.on("data", (p: Buffer) => parts.push(p));
    doc.on("end", () => resolve(Buffer.concat(parts)));
    doc.on("error", reject);
  });
  const width = doc.page.width - 2 * MARGIN;
  const bottom = () => doc.page.height - MARGIN - 18;
  const room = (height: number) => {
    if (doc.y + height > bottom()) doc.addPage();
  };

  doc.font("label").fontSize(22).fillColor(INK).text(plain(report.title));
  doc.font("text").fontSize(10).fillColor(QUIET).text(plain(report.subtitle));
  doc.moveDown(0.4);
  doc.font("text").fontSize(8.5).fillColor(QUIET).text(plain(report.caution), { width });
  for (const section of report.sections) {
    room(70);
    doc.moveDown(0.7);
    doc
      .moveTo(MARGIN, doc.y)
      .lineTo(MARGIN + width, doc.y)
      .lineWidth(1)
      .strokeColor(INK)
      .stroke();
    doc.moveDown(0.3);
    doc.font("label").fontSize(14).fillColor(INK).text(plain(section.title), MARGIN);
    doc.moveDown(0.15);
    for (const p of section.paragraphs) {
      doc.font("text").fontSize(10).fillColor(INK).text(plain(p), MARGIN, undefined, { width });
      doc.moveDown(0.2);
    }
    if (section.table && section.table.rows.length > 0) table(doc, section.table, width, bottom);
    if (section.id === "proof" && report.bars.length > 0) bars(doc, report.bars, width, room);
  }
  const { count } = doc.bufferedPageRange();
  for (let i = 0; i < count; i++) {
    doc.switchToPage(i);
    // below the margin: pdfkit would start a new page for it
    doc.page.margins.bottom = 0;
    doc
      .font("text")
      .fontSize(8)
      .fillColor(QUIET)
      .text(plain(`${report.title} · page ${i + 1} of ${count}`), MARGIN, doc.page.height - 34, {
        width,
        lineBreak: false,
      });
  }
  doc.end();
  return done;
}

function table(doc: PDFKit.PDFDocument, t: ReportTable, width: number, bottom: () => number): void {
  const n = t.columns.length;
  const weights = t.columns.map((c, i) =>
    Math.min(44, Math.max(8, c.length, ...t.rows.map((r) => (r[i] ?? "").length))),
  );
  const total = weights.reduce((a, b) => a + b, 0);
  const widths = weights.map((w) => (w / total) * width);
  const draw = (cells: readonly string[], face: string, size: number, colour: string) => {
    doc.font(face).fontSize(size);
    const height =
      Math.max(...cells.map((c, i) => doc.heightOfString(plain(c) || " ", { width: (widths[i] ?? 50) - 6 }))) + 5;
    if (doc.y + height > bottom()) doc.addPage();
    const y = doc.y;
    let x = MARGIN;
    for (let i = 0; i < n; i++) {
      doc
        .font(face)
        .fontSize(size)
        .fillColor(colour)
        .text(plain(cells[i] ?? ""), x, y + 2, { width: (widths[i] ?? 50) - 6 });
      x += widths[i] ?? 0;
    }
    doc
      .moveTo(MARGIN, y + height)
      .lineTo(MARGIN + width, y + height)
      .lineWidth(0.4)
      .strokeColor(RULE)
      .stroke();
    doc.y = y + height + 1;
    doc.x = MARGIN;
  };
  draw(t.columns, "label", 10, QUIET);
  for (const row of t.rows) draw(row, "text", 9, INK);
}

/** Before and after in the same axis: a bar each, the limit as a line across both. */
function bars(
  doc: PDFKit.PDFDocument,
  list: readonly BeforeAfterBar[],
  width: number,
  room: (h: number) => void,
): void {
  const labelWidth = 170;
  const most = Math.max(...list.flatMap((b) => [Math.abs(b.before), Math.abs(b.after ?? 0), b.limit ?? 0]));
  const scale = (width - labelWidth - 70) / most;
  const height = 30;
  room(list.length * height + 30);
  doc.moveDown(0.6);
  doc
    .font("label")
    .fontSize(11)
    .fillColor(INK)
    .text("Before (orange) and after (green), rpm; the line is the limit", MARGIN);
  for (const b of list) {
    const y = doc.y + 4;
    doc
      .font("text")
      .fontSize(8.5)
      .fillColor(INK)
      .text(plain(`${b.finding}\n${b.label}`), MARGIN, y, { width: labelWidth - 8, lineBreak: true });
    const x = MARGIN + labelWidth;
    doc.rect(x, y, Math.abs(b.before) * scale, 9).fill(ORANGE);
    doc
      .font("text")
      .fontSize(8.5)
      .fillColor(INK)
      .text(plain(b.beforeText), x + Math.abs(b.before) * scale + 4, y, { lineBreak: false });
    if (b.after !== undefined) doc.rect(x, y + 11, Math.abs(b.after) * scale, 9).fill(SPRUCE);
    doc.fillColor(INK).text(plain(b.afterText), x + Math.abs(b.after ?? 0) * scale + 4, y + 11, { lineBreak: false });
    if (b.limit !== undefined)
      doc
        .moveTo(x + b.limit * scale, y - 2)
        .lineTo(x + b.limit * scale, y + 22)
        .lineWidth(1)
        .strokeColor(INK)
        .stroke();
    doc.y = y + height - 4;
    doc.x = MARGIN;
  }
}
