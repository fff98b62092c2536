// Guards: the PDF holds every word of the report, over as many pages as it takes, with its letters.

import type { Report } from "@gearsense/core/report";
import { describe, expect, it } from "@jest/globals";
import sharp from "sharp";
import { pdfPages, squeezed } from "../testing/pdf-text.ts";
import { laidOut, renderPdf } from "./pdf.ts";

const bar = (before: number, after: number | undefined) => ({
  label: "gear 4, hard load, hot",
  finding: "Slip in gear 4",
  before,
  after,
  limit: 45,
  beforeText: `${before} rpm`,
  afterText: after === undefined ? "not driven" : `${after} rpm`,
  unit: "rpm",
});
const report = (patch: Partial<Report> = {}): Report => ({
  title: "Harbour Road · Job 0430",
  subtitle: "Library van, Skerrow",
  sections: [{ id: "complaint", title: "Complaint", paragraphs: ["“It slips”, 75 N·m, −0.6 l, 41 °C, ≤ 5 s"] }],
  bars: [],
  caution: "Follow the maker's instructions.",
  ...patch,
});

describe("text that was made to take long", () => {
  it("is broken after 60 letters without a space, and cut after 4000, just over and just under", () => {
    expect(laidOut("x".repeat(60))).toBe("x".repeat(60));
    expect(laidOut("x".repeat(61))).toBe(`${"x".repeat(60)} x`);
    const words = "nine more ".repeat(400);
    expect(laidOut(words)).toBe(words);
    expect(laidOut(`${words}!`)).toBe(`${words} …`);
  });
  it("is drawn with every letter: a word of 1,800, a name of 4,000", async () => {
    const word = "abcdefghij".repeat(180);
    const made = await renderPdf(
      report({
        subtitle: "W".repeat(4000),
        sections: [{ id: "a", title: "Long", paragraphs: [word], table: { columns: ["a", "b"], rows: [[word, "1"]] } }],
      }),
    );
    const all = squeezed((await pdfPages(made)).join(""));
    // a page may end within a word
    expect(all.split("W").length - 1).toBe(4000);
    expect(all.split("abcdefghij").length - 1).toBe(360);
  });
});

describe("the PDF", () => {
  it("has title, caution and page number on one page when it fits", async () => {
    const [page, ...more] = await pdfPages(await renderPdf(report()));
    expect(more).toEqual([]);
    for (const words of ["Harbour Road · Job 0430", "Follow the maker's instructions.", "page 1 of 1"])
      expect(squeezed(page ?? "")).toContain(squeezed(words));
  });
  it("keeps the letters that the trade needs", async () => {
    const [page] = await pdfPages(await renderPdf(report()));
    expect(squeezed(page ?? "")).toContain(squeezed("“It slips”, 75 N·m, −0.6 l, 41 °C"));
  });
  it("draws European, Greek and Cyrillic letters in titles, lines and tables, and names what it cannot draw", async () => {
    const words = ["Wałęsa Źródło", "Škoda ůř", "Größe ßẞ", "Ελληνική ΎΨΏ", "Українська їґ", "Íslensk þæð"];
    const made = await renderPdf(
      report({
        title: "Гараж Ångström · Job 0431",
        sections: [
          { id: "a", title: words.join(" "), paragraphs: words },
          {
            id: "b",
            title: "Table",
            paragraphs: [],
            table: { columns: ["Όνομα", "x"], rows: words.map((w) => [w, "1"]) },
          },
        ],
      }),
    );
    const all = squeezed((await pdfPages(made)).join(" "));
    for (const w of [...words, "Гараж Ångström", "Όνομα"]) expect(all).toContain(squeezed(w));
    expect(all).not.toContain("Notdrawn");
    const foreign = await renderPdf(report({ subtitle: "Van of \u6f22 and \u{1f697}" }));
    const told = squeezed((await pdfPages(foreign)).join(" "));
    expect(told).toContain("Notdrawn,shownas\u25af:U+6F22,U+1F697");
    expect(told).toContain("Vanof\u25afand\u25af");
  });
  it("shows the photos that there are, and takes a report whose photo is gone", async () => {
    const section = {
      id: "photos",
      title: "Photos",
      paragraphs: [],
      table: { columns: ["Of"], rows: [["magnet"]] },
    };
    const photos = [1, 2, 3, 4].map((n) => ({ photoId: `p${n}`, caption: `picture ${n}` }));
    const picture = await sharp({ create: { width: 60, height: 40, channels: 3, background: "#a33" } })
      .jpeg()
      .toBuffer();
    const made = (have: string[]) =>
      renderPdf(report({ sections: [section], photos }), new Map(have.map((id) => [id, picture])));
    const [none, all] = [await made([]), await made(["p1", "p2", "p4"])];
    expect((all.toString("latin1").match(/\/Subtype \/Image/g) ?? []).length).toBeGreaterThanOrEqual(1);
    expect(none.toString("latin1")).not.toContain("/Subtype /Image");
    const told = squeezed((await pdfPages(all)).join(" "));
    expect(told).toContain("picture1");
    expect(told).toContain("picture4");
    expect(told).not.toContain("picture3");
  });
  it("breaks a long table between rows and loses none", async () => {
    const rows = Array.from({ length: 140 }, (_, i) => [
      `check-${i}`,
      "a result that takes more than one line ".repeat(3),
      "x",
    ]);
    const pages = await pdfPages(
      await renderPdf(
        report({
          sections: [{ id: "checks", title: "Checks", paragraphs: [], table: { columns: ["A", "B", "C"], rows } }],
        }),
      ),
    );
    expect(pages.length).toBeGreaterThan(3);
    const all = squeezed(pages.join(" "));
    for (const [name] of rows) expect(all).toContain(`${name}aresult`);
    pages.forEach((p, i) => {
      expect(squeezed(p)).toContain(`page${i + 1}of${pages.length}`);
    });
  });
  it("draws before and after with the values beside the bars, and says what was not driven", async () => {
    const [page] = await pdfPages(
      await renderPdf(
        report({
          sections: [{ id: "proof", title: "Proof", paragraphs: ["One of two is gone."] }],
          bars: [bar(212, 4), bar(180, undefined)],
        }),
      ),
    );
    const words = squeezed(page ?? "");
    for (const text of ["212 rpm", "4 rpm", "180 rpm", "not driven", "the line is the limit"])
      expect(words).toContain(squeezed(text));
  });
});
