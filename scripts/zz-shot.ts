import { withServedBrowser } from "./served-browser.ts";
await withServedBrowser(4191, async (context) => {
  const page = await context.newPage();
  const jobs = await (await context.request.get("/api/jobs")).json();
  const id = (n: string) => jobs.find((j: { number: string }) => j.number === n).id;
  await page.goto(`/jobs/${id("0419")}/pan`); await page.waitForTimeout(1500);
  await page.getByRole("region", { name: "Seal and bolts of the pan" }).scrollIntoViewIfNeeded();
  await page.screenshot({ path: "/tmp/w/1.png" });
  await page.getByRole("button", { name: "Open the photo of the magnet" }).click(); await page.waitForTimeout(800);
  await page.getByRole("button", { name: "Mark the middle" }).click();
  await page.getByLabel("Marker 1 shows").selectOption({ index: 2 });
  await page.screenshot({ path: "/tmp/w/2.png" });
  await page.goto(`/jobs/${id("0419")}/suspects`); await page.waitForTimeout(2500);
  await page.getByRole("tab", { name: "Choose another check" }).click();
  await page.getByLabel("Find a check").fill("learned");
  await page.getByRole("button", { name: /Record: Learned/ }).click(); await page.waitForTimeout(800);
  await page.screenshot({ path: "/tmp/w/3.png" });
});
