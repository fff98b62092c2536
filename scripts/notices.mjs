// Writes THIRD-PARTY.md: every package that ships with the application, with its licence. usage: node scripts/notices.mjs
import { readFileSync, writeFileSync } from "node:fs";

const lock = JSON.parse(readFileSync("package-lock.json", "utf8")).packages;
const rows = Object.entries(lock)
  .filter(
    ([path, p]) =>
      path.startsWith("node_modules/") &&
      !p.dev &&
      !p.devOptional &&
      !p.link &&
      !path.startsWith("node_modules/@gearsense/"),
  )
  .map(([path, p]) => [path.replace(/^.*node_modules\//, ""), p.version, p.license ?? "see its folder"]);
const unique = [...new Map(rows.map((r) => [r.slice(0, 2).join(), r])).values()].sort((a, b) =>
  a[0].localeCompare(b[0]),
);
writeFileSync(
  "THIRD-PARTY.md",
  `# What others made
Libraries and fonts that ship with Gearsense, by \`node scripts/notices.mjs\` from the lock file. Their texts of licence stand in their folders in \`node_modules\`.

Fonts: Atkinson Hyperlegible Next and Barlow Condensed (SIL Open Font License 1.1), DejaVu Sans Condensed (Bitstream Vera licence and public domain), for
letters in PDFs that the other two lack.

| package | version | licence |
|---|---|---|
${unique.map((r) => `| ${r.join(" | ")} |`).join("\n")}
`,
);
