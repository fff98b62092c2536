// Intake, first look, pan and fluid: by touch on a tablet, by keyboard on a laptop, through reload, dead network and a second
// person's edit, and with what a tired hand gets wrong.
import { randomUUID } from "node:crypto";
import { expect, type Page, test } from "@playwright/test";
import ICAL from "ical.js";
import sharp from "sharp";
import { newJob, serious, signedIn, tickHolds } from "./support.ts";

/** Fluid at the left, white paper at the right, under a lamp that takes some of the blue. */
async function fluidPhoto(fluid = "#5a2a18", paper = "#f2ead0") {
  const half = (background: string) =>
    sharp({ create: { width: 400, height: 600, channels: 3, background } })
      .png()
      .toBuffer();
  return {
    name: "glass.jpg",
    mimeType: "image/jpeg",
    buffer: await sharp({ create: { width: 800, height: 600, channels: 3, background: "#000" } })
      .composite([
        { input: await half(fluid), left: 0, top: 0 },
        { input: await half(paper), left: 400, top: 0 },
      ])
      .jpeg({ quality: 92 })
      .toBuffer(),
  };
}
const PAN = { drainedL: 4, drainedC: 40, kmSinceService: null, filter: "clean", debris: [], sure: "sure", note: "" };
const entriesOf = async (page: Page, jobId: string, kind: string) =>
  (await (await page.request.get(`/api/jobs/${jobId}`)).json()).entries.filter(
    (e: { kind: string }) => e.kind === kind,
  );

test.describe("by touch on a tablet", () => {
  test.use({ viewport: { width: 1024, height: 768 }, hasTouch: true });

  test("from the customer's words to a fluid plan", async ({ page, context }) => {
    test.setTimeout(120_000);
    await signedIn(context);
    await page.goto("/jobs/new");
    await page.getByLabel("Owner").fill("Northstead");
    await expect(page.getByRole("region", { name: "Was here before" })).toContainText("School minibus");
    await page.getByLabel("Vehicle").fill("Peat lorry");
    await page.getByLabel("Owner").fill("Garth Peat");
    await expect(page.getByRole("region", { name: "Was here before" })).toBeHidden();
    await page.getByLabel("Transmission").selectOption("tarn-f4");
    await page.getByLabel("Mileage, km").fill("88000");
    await page.getByLabel("VIN").fill("11111111111111112");
    await expect(page.getByText("The check digit (character 9) should be")).toBeVisible();
    await page.getByLabel("VIN").fill("1".repeat(17));
    await expect(page.getByText("Form and check digit are right")).toBeVisible();
    await page
      .getByLabel("Complaint, in the customer's words")
      .fill("It slips from second to third uphill. The fluid was changed last year. It tows a trailer.");
    await page.getByRole("button", { name: /slips in 2-3, hard load/i }).tap();
    await page.getByRole("button", { name: /done: fluid changed/i }).tap();
    await page.getByRole("button", { name: /duty: tows/i }).tap();
    await expect(page.getByText("Read from these words")).toBeHidden();
    await expect(page.getByRole("radio", { name: "Hard", exact: true })).toBeChecked();
    await page.getByRole("button", { name: "40 km/h to 60 km/h" }).tap();
    await page.getByRole("button", { name: "60 km/h to 80 km/h" }).tap();
    await expect(page.getByText("Speed: 40 km/h to 80 km/h")).toBeVisible();
    await page.getByRole("radio", { name: "Always" }).tap();
    expect(await serious(page)).toEqual([]);
    await page.getByRole("button", { name: "Open the job" }).tap();

    // a cold reading on a wet stick, then a good one
    await expect(page.getByRole("heading", { name: "First look" })).toBeVisible();
    const jobId = page.url().split("/")[4] as string;
    const level = page.getByRole("form", { name: "Fluid level" });
    await level.getByLabel("Fluid temperature, °C").fill("25");
    await level.getByLabel("From full, l").fill("-0.2");
    await expect(level.getByText(/(low|over|Full) at 70.°C/)).toBeVisible();
    await expect(level.getByText("outside the window of the unit file")).toBeVisible();
    await level.getByLabel("Minutes since filling").fill("3");
    await expect(level.getByText("The tube is wet for about 10 min")).toBeVisible();
    await level.getByLabel("Minutes since filling").fill("40");
    await level.getByRole("radio", { name: "Off" }).tap();
    await expect(level.getByText("Read with the engine off")).toBeVisible();
    await level.getByRole("radio", { name: "Running" }).tap();
    await level.getByLabel("Fluid temperature, °C").fill("70");
    await level.getByLabel("From full, l").fill("0");
    await level.getByRole("radio", { name: "Level correct" }).tap();
    await level.getByLabel("Minutes spent").fill("9");
    await level.getByRole("button", { name: "Store the level" }).tap();
    await expect(page.getByText("9 min spent")).toBeVisible();

    await page.getByRole("button", { name: /^Leaks around the unit/ }).tap();
    const leaks = page.getByRole("form", { name: "Leaks around the unit" });
    await leaks.getByRole("button", { name: "Pan gasket and plug: not looked at" }).tap();
    await leaks.getByRole("button", { name: "Pan gasket and plug: dry" }).tap();
    await leaks.getByRole("button", { name: "Breather: not looked at" }).tap();
    await expect(leaks.getByRole("radio", { name: "damp, no drops" })).toBeChecked();
    await leaks.getByRole("radio", { name: "Fairly" }).tap();
    await leaks.getByRole("button", { name: "Store what was seen" }).tap();
    await expect(page.getByRole("button", { name: /^Leaks around the unit.*damp, no drops/ })).toBeVisible();
    await page.getByRole("button", { name: /^Battery and charging voltage/ }).tap();
    const battery = page.getByRole("form", { name: "Battery and charging voltage" });
    await battery.getByRole("button", { name: "Skip …" }).tap();
    await battery.getByLabel("Why it is skipped").fill("meter is lent");
    await battery.getByRole("button", { name: "Skip", exact: true }).tap();
    await expect(page.getByText(/Left open: low voltage as the reason.*meter is lent/)).toBeVisible();

    await page.getByRole("button", { name: "From a scan tool's report" }).tap();
    const report = page.getByRole("dialog", { name: "Codes from a scan tool's report" });
    await report
      .getByLabel("The report, pasted")
      .fill(
        "Module: Transmission\nP0731 Gear 1 ratio (stored)\nEngine speed: 2100 rpm\n\nModule: Body\nU0101 Lost communication\nthank you\n",
      );
    await report.getByRole("button", { name: "Read the codes" }).tap();
    await expect(report.getByText("2 codes in Transmission, Body; 1 line was not read")).toBeVisible();
    await report.getByRole("button", { name: "Store 2 codes" }).tap();
    await expect(page.getByRole("cell", { name: "U0101" })).toBeVisible();
    await page.getByText("freeze frame, 1").tap();
    await expect(page.getByText("2100 rpm")).toBeVisible();
    expect(await serious(page)).toEqual([]);

    // full by the stick, and hardly anything comes out
    await page.getByRole("link", { name: /^Pan/ }).tap();
    const pan = page.getByRole("form", { name: "Pan", exact: true });
    await tickHolds(page);
    await pan.getByLabel("Volume drained, l").fill("0.8");
    await pan.getByLabel("Drained at, °C").fill("60");
    await pan.getByLabel("Since the last service, km").fill("20000");
    await pan
      .getByRole("radiogroup", { name: "Lining flakes or fibres: how much" })
      .getByRole("radio", { name: "Some" })
      .tap();
    await pan.getByRole("radiogroup", { name: "Largest piece" }).getByRole("radio", { name: "3 mm" }).tap();
    await pan.getByRole("radiogroup", { name: "Fine grey paste: how much" }).getByRole("radio", { name: "Much" }).tap();
    await expect(pan.getByText("Over what the distance allows")).toBeVisible();
    await pan.getByRole("button", { name: "Store what was found" }).tap();
    await expect(page.getByRole("list", { name: "Contradictions" })).toContainText(
      "The level was correct, and 0.8 l of",
    );
    await expect(page.getByRole("complementary")).toContainText(/lining|Fluid level low/i);

    // colour by photo
    await page.getByLabel("Photo of the fluid").setInputFiles(await fluidPhoto());
    const colour = page.getByRole("region", { name: "Colour of the fluid" });
    await expect(colour.getByText(/Against fresh fluid: .*ΔE \d+ ± \d/)).toBeVisible();
    await expect(colour.getByText("It cannot tell which fluid this is")).toBeVisible();
    await page.getByRole("radio", { name: "the white reference" }).tap();
    await page
      .getByRole("group", { name: /^Photo with the white reference/ })
      .tap({ position: { x: 190, y: 70 }, timeout: 10_000 });
    const condition = page.getByRole("form", { name: "Fluid condition" });
    await condition.getByRole("radio", { name: "Brown" }).tap();
    await condition.getByRole("radio", { name: "Varnish" }).tap();
    await condition.getByRole("radio", { name: "Dark core" }).tap();
    await condition.getByRole("button", { name: "Store the condition" }).tap();
    await expect.poll(async () => (await entriesOf(page, jobId, "fluid")).at(-1)?.body.photo?.lab?.length).toBe(3);
    // a marker on the photo
    await page.getByRole("button", { name: "Open the photo of the fluid" }).tap();
    const dialog = page.getByRole("dialog");
    await dialog.getByRole("button", { name: "Mark the middle" }).tap();
    await dialog.getByRole("textbox", { name: "Marker 1" }).fill("edge of the glass");
    await dialog.getByRole("button", { name: "Store the markers" }).tap();
    await expect(page.getByText("1 marked", { exact: true })).toBeVisible();
    expect(await serious(page)).toEqual([]);

    await page.getByRole("link", { name: /^Fluid/ }).tap();
    await expect(page.getByRole("button", { name: "Tows" })).toHaveAttribute("aria-pressed", "true");
    await page.getByLabel("In it now").fill("");
    await expect(page.getByText("What is in it is unknown")).toBeVisible();
    await page.getByRole("radio", { name: "95 %" }).tap();
    const saved = page.waitForEvent("download");
    await page.getByRole("button", { name: "Save the dates (iCalendar)" }).tap();
    const calendar = await (await saved).createReadStream();
    let text = "";
    for await (const part of calendar) text += part;
    const events = new ICAL.Component(ICAL.parse(text)).getAllSubcomponents("vevent");
    expect(events.map((e) => String(e.getFirstPropertyValue("summary"))).join()).toMatch(
      /Level and leaks, cold: Job \d+, Peat lorry/,
    );
    expect(await serious(page)).toEqual([]);
    await page.getByRole("button", { name: "Store this plan" }).tap();
    await expect(page.getByRole("link", { name: /^Fluid, done, \d+ % fresh/ })).toBeVisible();
    await page.getByRole("link", { name: /^Hand-over/ }).tap();
    await expect(page.getByLabel(/^What, \d+$/).last()).toHaveValue("Next fluid change");
  });
});

test("by keyboard on a laptop: a rung, the pan, a patch on a photo", async ({ page, context }) => {
  await signedIn(context);
  const job = await newJob(context);
  await page.goto(`/jobs/${job.id}/first-look`);
  await expect(page.getByRole("heading", { name: "Quick checks" })).toBeVisible();
  await page.getByRole("button", { name: /^Battery and charging voltage/ }).focus();
  await page.keyboard.press("Enter");
  await page.getByLabel("At rest, V").focus();
  await page.keyboard.type("11,9");
  await page.keyboard.press("Tab");
  await page.keyboard.type("9.8");
  await expect(page.getByRole("radio", { name: "rest or start is weak" })).toBeChecked();
  await page.keyboard.press("Enter");
  await expect(
    page.getByRole("button", { name: /^Battery and charging voltage.*rest or start is weak/ }),
  ).toBeVisible();
  await page.getByRole("heading", { name: "First look" }).click();
  await page.keyboard.press("n");
  await expect(page.getByRole("heading", { name: "Pan", exact: true })).toBeVisible();
  await page.getByLabel("Photo of the fluid").setInputFiles(await fluidPhoto());
  const frame = page.getByRole("group", { name: /^Photo with the fluid patch/ });
  await frame.focus();
  const before = await page.getByText(/^L\* \d+/).textContent();
  for (let i = 0; i < 16; i++) await page.keyboard.press("ArrowRight");
  // the patch stands on the edge of the paper now
  await expect(page.getByText("the fluid patch is not of one colour")).toBeVisible();
  expect(await page.getByText(/^L\* \d+/).textContent()).not.toBe(before);
  await page.getByRole("group", { name: "Tick each once it is done" }).getByRole("checkbox").focus();
  await page.keyboard.press("Space");
  await page.getByLabel("Volume drained, l").focus();
  await page.keyboard.type("4");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("link", { name: /^Pan, done, 4\.0 l/ })).toBeVisible();
  await page.getByRole("heading", { name: "Pan", exact: true }).click();
  await page.keyboard.press("f");
  await expect(page.getByRole("heading", { name: "Fluid", exact: true })).toBeVisible();
});

test("what is typed outlives a reload, a dead network and a second person's edit; photos wait for the network", async ({
  page,
  context,
}) => {
  await signedIn(context);
  const job = await newJob(context);
  await page.goto(`/jobs/${job.id}/pan`);
  const pan = page.getByRole("form", { name: "Pan", exact: true });
  await pan.getByLabel("Volume drained, l").fill("3.4");
  await page.reload();
  await tickHolds(page);
  await expect(pan.getByLabel("Volume drained, l")).toHaveValue("3.4");
  await context.setOffline(true);
  await page.getByLabel("Photo of the magnet").setInputFiles(await fluidPhoto());
  await expect(page.getByText("1 kept on this device, sent when the network is back")).toBeVisible();
  await context.setOffline(false);
  await expect.poll(async () => (await entriesOf(page, job.id, "photo")).length, { timeout: 30_000 }).toBe(1);
  await expect(page.getByRole("button", { name: "Open the photo of the magnet" })).toBeVisible();
  // meanwhile somebody else measured too
  await context.request.post(`/api/jobs/${job.id}/entries`, { data: { kind: "pan", body: PAN, baseSeq: 0 } });
  await pan.getByRole("button", { name: "Store what was found" }).click();
  await expect(page.getByText("Somebody changed this while you were typing")).toBeVisible();
  await expect(pan.getByLabel("Volume drained, l")).toHaveValue("3.4");
  await page.getByRole("button", { name: "Store mine instead" }).click();
  await expect.poll(async () => (await entriesOf(page, job.id, "pan")).at(-1)?.body.drainedL).toBe(3.4);
});

test("a photo that waits is still there after a reload", async ({ page, context }) => {
  await signedIn(context);
  const job = await newJob(context);
  await page.goto(`/jobs/${job.id}/pan`);
  await page.getByLabel("Photo of the magnet").waitFor({ state: "attached" });
  await page.route("**/photos?**", (route) => route.abort());
  await page.getByLabel("Photo of the magnet").setInputFiles(await fluidPhoto());
  await expect(page.getByText("1 kept on this device")).toBeVisible();
  await page.reload();
  await expect(page.getByText("1 kept on this device")).toBeVisible();
  await page.unroute("**/photos?**");
  await page.evaluate(() => window.dispatchEvent(new Event("online")));
  await expect(page.getByRole("button", { name: "Open the photo of the magnet" })).toBeVisible();
});

test("what cannot be is refused with the reason, and nothing typed is lost", async ({ page, context }) => {
  await signedIn(context);
  const job = await newJob(context);
  await page.goto(`/jobs/${job.id}/pan`);
  const pan = page.getByRole("form", { name: "Pan", exact: true });
  await tickHolds(page);
  await pan.getByLabel("Volume drained, l").fill("14");
  await pan.getByLabel("Drained at, °C").fill("400");
  await pan.getByRole("button", { name: "Store what was found" }).click();
  await expect(pan.getByText("above 150 °C no fluid is drained")).toBeVisible();
  await pan.getByLabel("Drained at, °C").fill("60");
  await pan.getByRole("button", { name: "Store what was found" }).click();
  await expect(pan.getByText("Brae P6 holds 9.2 l: 14.0 l cannot have come out of it.")).toBeVisible();
  await expect(pan.getByLabel("Volume drained, l")).toHaveValue("14");
  await page.getByLabel("Photo of the magnet").setInputFiles({
    name: "magnet.jpg",
    mimeType: "image/jpeg",
    buffer: Buffer.from("time_s,engine_rpm\n0,800\n"),
  });
  await expect(page.getByText("This file isn’t a picture, whatever its name says")).toBeVisible();
  await page.getByRole("button", { name: "Drop it" }).click();
  await expect(page.getByText("This photo was not taken")).toBeHidden();

  await page.goto(`/jobs/${job.id}/first-look`);
  await page.getByRole("button", { name: "From a scan tool's report" }).click();
  const report = page.getByRole("dialog");
  await report.getByLabel("The report, pasted").fill("all fine here");
  await report.getByRole("button", { name: "Read the codes" }).click();
  await expect(report.getByText("No trouble code was found in the text")).toBeVisible();
  await report.getByLabel("Code report file").setInputFiles({
    name: "codes.txt",
    mimeType: "text/plain",
    buffer: Buffer.from([0, 1, 2, 3, 0, 0]),
  });
  await expect(report.getByText("codes.txt isn’t text")).toBeVisible();
  await report.getByRole("button", { name: "Close" }).click();
  expect(await entriesOf(page, job.id, "pan")).toEqual([]);
  expect(await entriesOf(page, job.id, "photo")).toEqual([]);
});

test("a viewer sees the evidence and changes none of it", async ({ page, context }) => {
  await signedIn(context);
  const job = await newJob(context);
  await context.request.post(`/api/jobs/${job.id}/entries`, { data: { kind: "pan", body: PAN, baseSeq: 0 } });
  await context.request.post(`/api/jobs/${job.id}/photos?photoId=${randomUUID()}&about=magnet`, {
    data: (await fluidPhoto()).buffer,
    headers: { "content-type": "application/octet-stream" },
  });
  await signedIn(context, "fenn");
  await page.goto(`/jobs/${job.id}/pan`);
  await expect(page.getByRole("button", { name: "Open the photo of the magnet" })).toBeVisible();
  await expect(page.getByRole("button", { name: "Store what was found" })).toBeHidden();
  await expect(page.getByLabel("Photo of the magnet", { exact: true })).toBeHidden();
});

test("what is marked in a photo counts in the odds; the pan goes back by the unit file; limits are typed where it has none", async ({
  page,
  context,
}) => {
  await signedIn(context);
  const job = await newJob(context);
  await page.goto(`/jobs/${job.id}/pan`);
  await expect(page.getByRole("region", { name: "Seal and bolts of the pan" })).toContainText(
    "Rubber seal on a steel carrier",
  );
  await page.getByLabel("Photo of the magnet").setInputFiles(await fluidPhoto());
  await page.getByRole("button", { name: "Open the photo of the magnet" }).click();
  const dialog = page.getByRole("dialog");
  await dialog.getByRole("button", { name: "Mark the middle" }).click();
  await dialog.getByLabel("Marker 1 shows").selectOption({ label: "Brass or bronze flakes" });
  await expect(dialog.getByRole("textbox", { name: "Marker 1" })).toHaveValue("Brass or bronze flakes");
  await dialog.getByRole("button", { name: "Store the markers" }).click();
  await expect(dialog).toBeHidden();
  await page.getByRole("link", { name: /^Suspects/ }).click();
  await page.getByRole("tab", { name: "For and against" }).click();
  await expect(page.getByText("Photo: brass or bronze flakes").first()).toBeVisible();
  // a limit that no unit file has, in the reader's units
  await page.getByRole("button", { name: /^Units of measure/ }).click();
  await page.getByRole("tab", { name: "Choose another check" }).click();
  await page.getByLabel("Find a check").fill("clearances of the pump");
  await page.getByRole("button", { name: /Record: Clearances of the pump/i }).click();
  const numbers = page.getByRole("dialog").getByRole("region", { name: "Numbers" });
  await expect(numbers.getByText("type it from the maker’s data").first()).toBeVisible();
  await numbers.getByLabel("Gear or rotor to cover, to, in").fill("0.002");
  await numbers.getByLabel("Gear or rotor to cover, in", { exact: true }).fill("0.006");
  await expect(numbers.getByText(/^0\.006 ± 0\.00\d+ in: out/)).toBeVisible();
  await expect(page.getByRole("dialog").getByRole("radio", { name: "Worn" })).toBeChecked();
});
