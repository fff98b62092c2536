import type { JobView } from "@gearsense/contract";
import { expect, test } from "@playwright/test";
import { newJob, recorder, recordingOf, serious, signedIn, vehicleOf } from "./support.ts";

test("a complaint is driven from the link: channels, the drive, marks through a dead network, the log and its finding", async ({
  page,
  context,
}) => {
  test.slow();
  const vehicle = await vehicleOf("--unit", "brae-p6", "--fault", "element-worn@TC:0.7", "--seed", "2", "--speed", "6");
  try {
    await signedIn(context);
    const job = await newJob(context);
    await page.goto(`/jobs/${job.id}/scan`);
    await page.getByRole("button", { name: "Record a drive" }).click();
    const box = recorder(page);
    await box.getByLabel("Port").fill("1");
    await box.getByRole("button", { name: "Look who is there" }).click();
    await expect(box.getByText(/nobody listens there.*Look at address and port/)).toBeVisible();
    await box.getByLabel("Port").fill(vehicle.port);
    await box.getByRole("button", { name: "Look who is there" }).click();
    await expect(box.getByText("The simulated vehicle is on the line")).toBeVisible();
    await expect(box.getByRole("button", { name: "Record", exact: true })).toBeDisabled();
    // the way to drive stands there before the first kilometre
    const plan = box.getByRole("region", { name: "Drive plan" });
    await expect(plan.getByText("shift up, light pedal: 1-2, 2-3, 3-4, 4-5, 5-6")).toBeVisible();
    // the shop's own definition is read once, and forgotten again
    const name = `Adapter of ${job.number}`;
    const own = JSON.stringify({
      format: "gearsense-link",
      version: 1,
      name,
      channels: [{ channel: "engine_rpm", ecu: "engine", did: "0xA001", bytes: 2, scale: 0.25, offset: 0 }],
    });
    const definition = { name: "own.json", mimeType: "application/json" };
    await box.getByLabel("Own definition").setInputFiles({ ...definition, buffer: Buffer.from("{}") });
    await expect(box.getByText(/own.json is not a link definition/)).toBeVisible();
    await box.getByLabel("Own definition").setInputFiles({ ...definition, buffer: Buffer.from(own) });
    await expect(box.getByLabel("Read by")).toHaveValue(name);
    await expect(box.getByRole("heading", { name: "1 of 1 channels" })).toBeVisible();
    await box.getByRole("button", { name: `Forget ${name}` }).click();
    await expect(box.getByRole("option", { name })).toHaveCount(0);
    await expect(box.getByRole("heading", { name: "1 of 1 channels" })).toBeHidden();
    await box.getByRole("checkbox", { name: /A second person holds this screen/ }).check();
    // an adaptation value more than what is proposed
    await box.getByText(/more that it tells/).click();
    await box.getByRole("checkbox", { name: "Converter clutch command" }).check();
    expect(await serious(page)).toEqual([]);
    await box.getByRole("button", { name: "Record", exact: true }).click();

    const felt = box.getByRole("button", { name: "Felt it now" });
    await expect(felt).toBeVisible();
    await expect.poll(async () => (await recordingOf(page, job)).live.timeS, { timeout: 60_000 }).toBeGreaterThan(30);
    await felt.click();
    await expect(box.getByRole("region", { name: "Marks" }).getByRole("listitem")).toHaveCount(1);
    // the network is cut, the drive goes on; the mark keeps its time
    await page.locator("h1").click();
    const cutAtS = (await recordingOf(page, job)).live.timeS;
    await context.setOffline(true);
    await page.keyboard.press("Space");
    await page.waitForTimeout(3000);
    await context.setOffline(false);
    const backAtS = (await recordingOf(page, job)).live.timeS;
    await expect(box.getByRole("region", { name: "Marks" }).getByRole("listitem")).toHaveCount(2, { timeout: 20_000 });
    const [, second] = (await recordingOf(page, job)).marks;
    // it is sent after the network came back, and was felt before
    expect(second?.timeS).toBeGreaterThanOrEqual(cutAtS);
    expect(second?.timeS).toBeLessThan(backAtS);
    await box
      .getByRole("button", { name: /^slip at/ })
      .last()
      .click();
    await expect(box.getByRole("heading", { name: "Drive this next" })).toBeVisible();
    expect(await serious(page)).toEqual([]);

    // somebody who comes later sees the same drive
    const other = await context.newPage();
    await other.goto(`/jobs/${job.id}/scan`);
    await expect(recorder(other).getByRole("button", { name: "Felt it now" })).toBeVisible();
    await other.close();
    await expect.poll(async () => (await recordingOf(page, job)).live.timeS, { timeout: 120_000 }).toBeGreaterThan(240);
    await box.getByRole("button", { name: "End and keep" }).click();
    await expect(box).toBeHidden({ timeout: 60_000 });
    await expect(page.getByRole("heading", { name: /finding/i }).first()).toBeVisible();
    const kept = await recordingOf(page, job);
    expect(kept).toMatchObject({ state: "kept", live: { gone: null } });
    const now: JobView = await (await page.request.get(`/api/jobs/${job.id}`)).json();
    const notes = now.entries.filter((e) => e.kind === "note").map((e) => (e.body as { text: string }).text);
    expect(notes.sort()).toEqual(["Felt here: slip", "Felt it here"]);
    const { analysis } = await (await page.request.get(`/api/jobs/${job.id}/logs/${kept.logId}/analysis`)).json();
    expect(analysis.findings.map((f: { kind: string }) => f.kind)).toContain("slip");
  } finally {
    vehicle.end();
  }
});

test("a vehicle that is switched off in mid-drive leaves what came, to be kept or dropped", async ({
  page,
  context,
}) => {
  const vehicle = await vehicleOf("--unit", "brae-p6", "--seed", "4", "--speed", "2");
  try {
    await signedIn(context);
    const job = await newJob(context);
    await page.goto(`/jobs/${job.id}/scan`);
    await page.getByRole("button", { name: "Record a drive" }).click();
    const box = recorder(page);
    await box.getByLabel("Port").fill(vehicle.port);
    await box.getByRole("button", { name: "Look who is there" }).click();
    await box.getByRole("checkbox", { name: /A second person holds this screen/ }).check();
    await box.getByRole("button", { name: "Record", exact: true }).click();
    await expect.poll(async () => (await recordingOf(page, job))?.rows ?? 0, { timeout: 30_000 }).toBeGreaterThan(20);
    vehicle.end();
    await expect(box.getByText("The recording has ended by itself")).toBeVisible({ timeout: 20_000 });
    await expect(box.getByRole("button", { name: "Felt it now" })).toBeDisabled();
    await box.getByRole("button", { name: "Drop", exact: true }).click();
    await expect(box.getByText("Drop the whole recording?")).toBeVisible();
    await box.getByRole("button", { name: "Drop it" }).click();
    await expect(box.getByRole("button", { name: "Look who is there" })).toBeVisible();
    expect((await recordingOf(page, job)).state).toBe("dropped");
  } finally {
    vehicle.end();
  }
});
