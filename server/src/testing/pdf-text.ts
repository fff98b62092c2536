import { getDocument } from "pdfjs-dist/legacy/build/pdf.mjs";

/** The text of each page of a PDF. */
export async function pdfPages(bytes: Buffer): Promise<string[]> {
  const document = await getDocument({ data: new Uint8Array(bytes), useSystemFonts: true, verbosity: 0 }).promise;
  const pages: string[] = [];
  for (let n = 1; n <= document.numPages; n++) {
    const content = await (await document.getPage(n)).getTextContent();
    pages.push(content.items.map((i) => ("str" in i ? i.str : "")).join(" "));
  }
  await document.destroy();
  return pages;
}

/** Text without white space: a PDF breaks lines where it likes. */
export const squeezed = (text: string): string => text.replace(/\s+/g, "");
