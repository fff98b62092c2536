// Runs the steps one after another, goes on after a failure, and closes with one line "N passed, N failed".
import { spawn } from "node:child_process";
import { mkdirSync, readdirSync, readFileSync, rmSync } from "node:fs";

const results = "test-results";
rmSync(results, { recursive: true, force: true });
mkdirSync(results, { recursive: true });

let passed = 0;
let failed = 0;
const troubles = [];

function run(title, command, env = {}) {
  console.log(`\n=== ${title}`);
  return new Promise((resolve) => {
    const started = Date.now();
    const child = spawn("bash", ["-c", command], {
      stdio: ["ignore", "inherit", "inherit"],
      env: { ...process.env, ...env },
    });
    child.on("close", (code) => {
      console.log(
        `--- ${title}: ${code === 0 ? "ok" : `failed (${code})`}, ${((Date.now() - started) / 1000).toFixed(1)} s`,
      );
      resolve(code);
    });
  });
}

async function check(title, command) {
  if ((await run(title, command)) === 0) passed++;
  else {
    failed++;
    troubles.push(title);
  }
}

/** A step with its own tests: counts come from its report; one that wrote none has failed. */
async function suite(title, command, file, count, env) {
  const code = await run(title, command, env);
  let counts;
  try {
    counts = count(JSON.parse(readFileSync(file, "utf8")));
  } catch {
    counts = { passed: 0, failed: 1, skipped: 0 };
    troubles.push(`${title} wrote no report`);
  }
  passed += counts.passed;
  failed += counts.failed;
  if (counts.failed > 0) troubles.push(`${title}: ${counts.failed} failed`);
  if (counts.skipped > 0) {
    failed += counts.skipped;
    troubles.push(`${title}: ${counts.skipped} skipped or not run; a skipped test counts as failed`);
  }
  if (code !== 0 && counts.failed === 0 && counts.skipped === 0) {
    failed++;
    troubles.push(`${title} ended with code ${code}`);
  }
  if (counts.passed === 0) {
    failed++;
    troubles.push(`${title} ran no test`);
  }
}

await check("Type check", "npx --no-install tsc -b");
await check("Lint", "npx --no-install biome check . --error-on-warnings");
await check("Dependency rules", "npm run --silent rules");
await check("Unused", "npm run --silent unused");
const quick = process.argv.includes("--quick");
await suite(
  "Jest",
  `npm run --silent test:unit -- ${quick ? "--selectProjects core contract web" : ""} --json --outputFile=${results}/jest.json --ci`,
  `${results}/jest.json`,
  (r) => ({
    passed: r.numPassedTests,
    failed: r.numFailedTests + r.numRuntimeErrorTestSuites,
    skipped: r.numPendingTests + r.numTodoTests,
  }),
);
if (!quick) {
  await check("Production build", "npm run --silent build && touch web/dist/.built");
  await suite("Playwright", "npx --no-install playwright test", `${results}/playwright.json`, (r) => ({
    passed: r.stats.expected,
    failed: r.stats.unexpected + r.stats.flaky + r.errors.length,
    skipped: r.stats.skipped,
  }));
}

// what stood on the page where a flow failed: on a machine nobody can look at it is all there is
for (const f of readdirSync(results, { recursive: true }).filter((f) => f.endsWith("error-context.md")))
  console.log(`\n${f}\n${readFileSync(`${results}/${f}`, "utf8").split("# Error details")[1]?.slice(0, 3000)}`);
if (troubles.length > 0) console.log(`\nTroubles:\n${troubles.map((t) => `  - ${t}`).join("\n")}`);
console.log(`\n${passed} passed, ${failed} failed`);
process.exit(failed > 0 ? 1 : 0);
