import { writeFileSync } from "node:fs";
import { withServedBrowser } from "./served-browser.ts";
await withServedBrowser(4191, async (context) => {
  const page = await context.newPage();
  const jobs = await (await context.request.get("/api/jobs")).json();
  const stops = ["intake","first-look","pan","fluid","scan","road-test","suspects","decide","work","proof","hand-over","report","estimate"];
  let text = "";
  for (const j of jobs) {
    for (const s of stops) {
      await page.goto(`/jobs/${j.id}/${s}`);
      await page.waitForLoadState("networkidle").catch(() => {});
      await page.waitForTimeout(s === "suspects" || s === "decide" ? 2500 : 500);
      text += `\n\n=== ${j.number} ${s}\n` + (await page.locator("main").innerText().catch((e) => String(e)));
    }
  }
  for (const u of ["/", "/units", "/units/brae-p6", "/units/brae-p6/service", "/units/machair-d6/what-if","/samples","/jobs/new"]) {
    await page.goto(u); await page.waitForTimeout(800);
    text += `\n\n=== ${u}\n` + (await page.locator("main").innerText().catch((e) => String(e)));
  }
  writeFileSync("/tmp/w/text.txt", text);
});
