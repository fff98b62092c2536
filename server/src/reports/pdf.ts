import { readFileSync } from "node:fs";
import { createRequire } from "node:module";
import type { DrawnPart, StackDrawing } from "@gearsense/core/bench";
import type { BeforeAfterBar, Report, ReportTable } from "@gearsense/core/report";
import * as fontkit from "fontkit";
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

type Face = keyof typeof FONTS;
/** European, Greek and Cyrillic letters that the faces of the house lack. */
const WIDE: Readonly<Record<Face, string>> = { text: "wide", bold: "wide-bold", label: "wide-bold" };
const WIDE_FONTS = {
  wide: font("dejavu-fonts-ttf/ttf/DejaVuSansCondensed.ttf"),
  "wide-bold": font("dejavu-fonts-ttf/ttf/DejaVuSansCondensed-Bold.ttf"),
};
const lettersOf = (data: Buffer): ReadonlySet<number> => new Set((fontkit.create(data) as fontkit.Font).characterSet);
const OWN = Object.fromEntries(Object.entries(FONTS).map(([name, data]) => [name, lettersOf(data)])) as Record<
  Face,
  ReadonlySet<number>
>;
const WIDE_LETTERS = lettersOf(WIDE_FONTS.wide);
/** Stands for a letter that no shipped font has. */
const NO_LETTER = "\u25af";

/** No paragraph and no cell of a report is longer; a word longer than a line is broken. */
const MOST_LETTERS = 4000;
const LONGEST_WORD = 60;
const TOO_LONG = new RegExp(`\\S{${LONGEST_WORD}}(?=\\S)`, "gu");

/** Text as it can be laid out: the layout takes time by the square of a word's length. */
export const laidOut = (text: string): string =>
  (text.length > MOST_LETTERS ? `${text.slice(0, MOST_LETTERS)} …` : text).replace(TOO_LONG, "$& ");

/** Sets a font that has the letters of a text, and remembers those that none has. */
class Pen {
  readonly missing = new Set<string>();
  private readonly doc: PDFKit.PDFDocument;

  constructor(doc: PDFKit.PDFDocument) {
    this.doc = doc;
  }

  /** @returns the text as it can be drawn, in the font that is set now */
  with(face: Face, raw: string): string {
    // the fonts have no narrow spaces
    const text = laidOut(raw.replace(/[\u202f\u2009]/g, "\u00a0").normalize("NFC"));
    const letters = [...text].filter((c) => c !== "\n");
    const has = (set: ReadonlySet<number>) => (c: string) => set.has(c.codePointAt(0) as number);
    if (letters.every(has(OWN[face]))) {
      this.doc.font(face);
      return text;
    }
    this.doc.font(WIDE[face]);
    return [...text]
      .map((c) => {
        if (c === "\n" || has(WIDE_LETTERS)(c)) return c;
        this.missing.add(c);
        return NO_LETTER;
      })
      .join("");
  }
}

/**
 * Draws the report as a PDF.
 * @param pictures - JPEG of each photo that is shown, by its id
 * @returns the bytes
 */
export function renderPdf(report: Report, pictures: ReadonlyMap<string, Buffer> = new Map()): Promise<Buffer> {
  const doc = new PDFDocument({
    size: "A4",
    margin: MARGIN,
    bufferPages: true,
    info: { Title: report.title, Creator: "Gearsense" },
  });
  for (const [name, data] of Object.entries({ ...FONTS, ...WIDE_FONTS })) doc.registerFont(name, data);
  const pen = new Pen(doc);
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

  const write = (face: Face, size: number, colour: string, raw: string, options?: PDFKit.Mixins.TextOptions) => {
    const text = pen.with(face, raw);
    doc.fontSize(size).fillColor(colour).text(text, MARGIN, undefined, options);
  };

  write("label", 22, INK, report.title);
  write("text", 10, QUIET, report.subtitle);
  doc.moveDown(0.4);
  write("text", 8.5, QUIET, report.caution, { width });
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
    write("label", 14, INK, section.title);
    doc.moveDown(0.15);
    for (const p of section.paragraphs) {
      write("text", 10, INK, p, { width });
      doc.moveDown(0.2);
    }
    if (section.signature && section.signature.length > 0) signature(doc, section.signature, room);
    for (const drawing of section.drawings ?? []) stackUp(doc, pen, drawing, width, room);
    if (section.table && section.table.rows.length > 0) table(doc, pen, section.table, width, bottom);
    if (section.id === "photos") photos(doc, pen, report, pictures, width, room);
    if (section.id === "proof" && report.bars.length > 0) bars(doc, pen, report.bars, width, room);
  }
  if (pen.missing.size > 0) {
    const named = [...pen.missing].map(
      (c) => `U+${(c.codePointAt(0) as number).toString(16).toUpperCase().padStart(4, "0")}`,
    );
    room(40);
    doc.moveDown(0.7);
    write(
      "text",
      8.5,
      QUIET,
      `Not drawn, shown as ${NO_LETTER}: ${named.join(", ")}. The fonts that ship have Latin, Greek and Cyrillic letters.`,
      { width },
    );
  }
  const { count } = doc.bufferedPageRange();
  for (let i = 0; i < count; i++) {
    doc.switchToPage(i);
    // below the margin: pdfkit would start a new page for it
    doc.page.margins.bottom = 0;
    const footer = pen.with("text", `${report.title} · page ${i + 1} of ${count}`);
    doc
      .fontSize(8)
      .fillColor(QUIET)
      .text(footer, MARGIN, doc.page.height - 34, { width, lineBreak: false });
  }
  doc.end();
  return done;
}

function table(doc: PDFKit.PDFDocument, pen: Pen, t: ReportTable, width: number, bottom: () => number): void {
  const n = t.columns.length;
  const weights = t.columns.map((c, i) =>
    Math.min(44, Math.max(8, c.length, ...t.rows.map((r) => (r[i] ?? "").length))),
  );
  const total = weights.reduce((a, b) => a + b, 0);
  const widths = weights.map((w) => (w / total) * width);
  const draw = (cells: readonly string[], face: Face, size: number, colour: string) => {
    doc.fontSize(size);
    const height =
      Math.max(...cells.map((c, i) => doc.heightOfString(pen.with(face, c) || " ", { width: (widths[i] ?? 50) - 6 }))) +
      5;
    if (doc.y + height > bottom()) doc.addPage();
    const y = doc.y;
    let x = MARGIN;
    for (let i = 0; i < n; i++) {
      const text = pen.with(face, cells[i] ?? "");
      doc
        .fontSize(size)
        .fillColor(colour)
        .text(text, x, y + 2, { width: (widths[i] ?? 50) - 6 });
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

const STACK_ROW = 34;
const STACK_NAME = 58;
const STACK_FILL: Readonly<Record<DrawnPart["kind"], string>> = {
  friction: "#8c6a4a",
  steel: "#9aa3ad",
  fixed: "#c9c3b4",
  selective: "#2f4a66",
  gap: "#ffffff",
  room: "#e3ded1",
  take: "#9aa3ad",
  overlap: ORANGE,
};
/** A part is named inside when it is wide enough for so many points a letter. */
const LETTER = 4.4;

/** A stack-up to scale: a row for each side, parts as boxes with their thickness under them. */
function stackUp(
  doc: PDFKit.PDFDocument,
  pen: Pen,
  drawing: StackDrawing,
  width: number,
  room: (h: number) => void,
): void {
  room(drawing.rows.length * STACK_ROW + 34);
  doc.moveDown(0.3);
  const caption = pen.with("text", drawing.caption);
  doc.fontSize(9).fillColor(INK).text(caption, MARGIN, undefined, { width });
  const scale = (width - STACK_NAME) / drawing.lengthMm;
  for (const row of drawing.rows) {
    const y = doc.y + 3;
    const name = pen.with("label", row.name);
    doc
      .fontSize(9)
      .fillColor(QUIET)
      .text(name, MARGIN, y + 3, { width: STACK_NAME - 4, lineBreak: false });
    for (const part of row.parts) {
      const x = MARGIN + STACK_NAME + part.fromMm * scale;
      const w = Math.max(0.4, part.mm * scale);
      doc.rect(x, y, w, 16).fillAndStroke(STACK_FILL[part.kind], INK);
      const size = pen.with("text", part.mm.toFixed(2));
      if (w > LETTER * size.length)
        doc
          .fontSize(7.5)
          .fillColor(INK)
          .text(size, x, y + 18, { width: w, align: "center", lineBreak: false });
    }
    doc.y = y + STACK_ROW - 6;
    doc.x = MARGIN;
  }
  doc.moveDown(0.4);
}

/** Of a signature on paper, pt; its height is that of the strokes. */
const SIGNED_WIDTH = 200;

/** The strokes of a hand over a line. */
function signature(doc: PDFKit.PDFDocument, strokes: readonly (readonly number[])[], room: (h: number) => void): void {
  const scale = SIGNED_WIDTH / 1000;
  const ys = strokes.flatMap((s) => s.filter((_, i) => i % 2 === 1));
  const [top, bottom] = [Math.min(...ys), Math.max(...ys)];
  const height = (bottom - top) * scale;
  room(height + 16);
  const [x0, y0] = [MARGIN, doc.y + 4];
  doc.lineWidth(1.2).strokeColor(INK).lineCap("round").lineJoin("round");
  for (const stroke of strokes) {
    for (let i = 0; i + 1 < stroke.length; i += 2) {
      const [x, y] = [x0 + (stroke[i] as number) * scale, y0 + ((stroke[i + 1] as number) - top) * scale];
      if (i === 0) doc.moveTo(x, y).lineTo(x + 0.1, y);
      else doc.lineTo(x, y);
    }
    doc.stroke();
  }
  doc
    .lineWidth(0.6)
    .strokeColor(RULE)
    .moveTo(x0, y0 + height + 4)
    .lineTo(x0 + SIGNED_WIDTH, y0 + height + 4)
    .stroke();
  doc.y = y0 + height + 10;
  doc.x = MARGIN;
}

const PHOTOS_IN_A_ROW = 3;
const PHOTO_GAP = 8;
const PHOTO_HEIGHT = 120;

/** Photos in rows of three, each over its caption. */
function photos(
  doc: PDFKit.PDFDocument,
  pen: Pen,
  report: Report,
  pictures: ReadonlyMap<string, Buffer>,
  width: number,
  room: (h: number) => void,
): void {
  const shown = (report.photos ?? []).flatMap((p) => {
    const content = pictures.get(p.photoId);
    return content ? [{ ...p, content }] : [];
  });
  const each = (width - (PHOTOS_IN_A_ROW - 1) * PHOTO_GAP) / PHOTOS_IN_A_ROW;
  for (let i = 0; i < shown.length; i += PHOTOS_IN_A_ROW) {
    room(PHOTO_HEIGHT + 24);
    const y = doc.y + 6;
    shown.slice(i, i + PHOTOS_IN_A_ROW).forEach((p, k) => {
      const x = MARGIN + k * (each + PHOTO_GAP);
      doc.image(p.content, x, y, { fit: [each, PHOTO_HEIGHT], align: "center" });
      const caption = pen.with("text", p.caption);
      doc
        .fontSize(8)
        .fillColor(QUIET)
        .text(caption, x, y + PHOTO_HEIGHT + 3, { width: each, height: 11, ellipsis: true });
    });
    doc.y = y + PHOTO_HEIGHT + 18;
    doc.x = MARGIN;
  }
}

/** Before and after in the same axis: a bar each, the limit as a line across both. */
function bars(
  doc: PDFKit.PDFDocument,
  pen: Pen,
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
    const name = pen.with("text", `${b.finding}\n${b.label}`);
    doc
      .fontSize(8.5)
      .fillColor(INK)
      .text(name, MARGIN, y, { width: labelWidth - 8, lineBreak: true });
    const x = MARGIN + labelWidth;
    doc.rect(x, y, Math.abs(b.before) * scale, 9).fill(ORANGE);
    doc
      .font("text")
      .fontSize(8.5)
      .fillColor(INK)
      .text(pen.with("text", b.beforeText), x + Math.abs(b.before) * scale + 4, y, { lineBreak: false });
    if (b.after !== undefined) doc.rect(x, y + 11, Math.abs(b.after) * scale, 9).fill(SPRUCE);
    doc
      .fillColor(INK)
      .text(pen.with("text", b.afterText), x + Math.abs(b.after ?? 0) * scale + 4, y + 11, { lineBreak: false });
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
