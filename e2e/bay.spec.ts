// A fresh machine in the bay: set up by its owner, a technician on a phone over TLS opens the first job, everything goes into a backup and
// comes back into an empty database.
import { type ChildProcess, execFile, spawn } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { promisify } from "node:util";
import { devices, expect, type Page, test } from "@playwright/test";
import { connect } from "../server/src/db/connect.ts";
import { serious } from "./support.ts";

const PORT = 4185;
const AT = `https://127.0.0.1:${PORT}`;
const PASSWORD = "kelp ladder sixpence";
const run = promisify(execFile);

const admin = process.env.TEST_DATABASE_URL ?? "";
const urlOf = (name: string) => admin.replace(/[^/]+$/, name);
async function freshDatabase(name: string): Promise<string> {
  const db = connect(admin);
  await db.raw(`drop database if exists ${name} with (force)`);
  await db.raw(`create database ${name}`);
  await db.destroy();
  return urlOf(name);
}

/** `./gearsense start`, as somebody types it. */
async function start(url: string, folder: string): Promise<{ said: string; end: () => Promise<void> }> {
  const child: ChildProcess = spawn("./gearsense", ["start", "--no-demo", "--host", "127.0.0.1", "--port", `${PORT}`], {
    env: { ...process.env, DATABASE_URL: url, BACKUP_FOLDER: join(folder, "copies") },
    stdio: ["ignore", "pipe", "inherit"],
  });
  let said = "";
  await new Promise<void>((ready, failed) => {
    child.stdout?.on("data", (d: Buffer) => {
      said += d.toString();
      if (said.includes("is ready")) ready();
    });
    child.once("exit", (code) => failed(new Error(`it ended with ${code}: ${said}`)));
  });
  return {
    said,
    end: () =>
      new Promise((done) => {
        if (child.exitCode !== null || child.signalCode !== null) return done();
        child.once("exit", () => done());
        child.kill("SIGTERM");
      }),
  };
}

async function signIn(page: Page, name: string): Promise<void> {
  await page.goto(AT);
  await page.getByLabel("Sign-in name").fill(name);
  await page.getByLabel("Password").fill(PASSWORD);
  await page.getByRole("button", { name: "Sign in" }).click();
  await expect(page.getByRole("heading", { name: /Bay board/ })).toBeVisible();
}

test("from an empty machine to the first job on a phone, and back from a backup", async ({ browser }) => {
  test.setTimeout(150_000);
  const folder = mkdtempSync(join(tmpdir(), "gearsense-e2e-"));
  let server: Awaited<ReturnType<typeof start>> | undefined;
  try {
    server = await start(await freshDatabase("gearsense_bay"), folder);
    const office = await browser.newContext({ ignoreHTTPSErrors: true, extraHTTPHeaders: {} });
    const owner = await office.newPage();
    owner.setDefaultTimeout(20_000);
    await owner.goto(AT);
    await expect(owner.getByRole("heading", { name: "Set up your shop" })).toBeVisible();
    const fill = (label: string, value: string) => owner.getByLabel(label, { exact: true }).fill(value);
    await fill("Code", "AAAA-AAAA");
    await fill("Name of the shop", "Tolm Gearboxes");
    await fill("Hourly rate, without tax", "64");
    await fill("Your name", "Marl Rendall");
    await fill("Sign-in name", "marl");
    await fill("Password", PASSWORD);
    await owner.getByRole("button", { name: "Begin" }).click();
    await expect(owner.getByText("isn’t the code of this start")).toBeVisible();
    await fill("Code", /with the code (\S+)\./.exec(server.said)?.[1] ?? "");
    expect(await serious(owner)).toEqual([]);
    await owner.getByRole("button", { name: "Begin" }).click();

    // led through the first ten minutes
    const steps = owner.getByRole("region", { name: "First steps" });
    await expect(steps).toBeVisible();
    expect(await serious(owner)).toEqual([]);
    await steps.getByRole("link", { name: "Add the technicians" }).click();
    await owner.getByRole("button", { name: "Add somebody" }).click();
    const person = owner.getByRole("form", { name: "New person" });
    await person.getByLabel("Name", { exact: true }).fill("Iona Tullo");
    await person.getByLabel("Sign-in name").fill("iona");
    await person.getByLabel("First password").fill(PASSWORD);
    await person.getByRole("button", { name: "Add", exact: true }).click();
    await expect(owner.getByText("signs in as iona")).toBeVisible();
    expect(await serious(owner)).toEqual([]);

    // the technician's phone
    const bay = await browser.newContext({ ...devices["Pixel 7"], ignoreHTTPSErrors: true });
    const phone = await bay.newPage();
    phone.setDefaultTimeout(20_000);
    await signIn(phone, "iona");
    const cookies = await bay.cookies(AT);
    expect(cookies.find((c) => c.name === "gearsense.sid")).toMatchObject({ secure: true, httpOnly: true });
    await phone.getByRole("button", { name: "Open the first job" }).click();
    await phone.getByLabel("Vehicle", { exact: true }).fill("Harbour taxi");
    await phone.getByLabel("Owner").fill("Tolm Harbour Cars");
    await phone.getByLabel("Transmission").selectOption("brae-p6");
    await phone.getByLabel("Mileage, km").fill("141000");
    await phone.getByLabel("Complaint, in the customer's words").fill("It slips in third when hot.");
    await phone.getByRole("button", { name: "Open the job" }).click();
    await expect(phone.getByText(/Harbour taxi/).first()).toBeVisible();
    await expect(phone.getByRole("heading", { name: "Open a job" })).toBeHidden();
    const width = await phone.evaluate(() => [document.documentElement.scrollWidth, window.innerWidth]);
    expect(width[0]).toBeLessThanOrEqual(width[1] as number);

    // a backup while it runs, by the command; one is not written over
    const file = join(folder, "everything.tar");
    const env = { ...process.env, DATABASE_URL: urlOf("gearsense_bay") };
    expect((await run("./gearsense", ["backup", file], { env })).stderr).toMatch(/everything\.tar: .* MB\. Keep it/);
    await expect(run("./gearsense", ["backup", file], { env })).rejects.toThrow(/is there already/);
    await server.end();

    // into an empty machine; over a filled one it asks
    const empty = { ...process.env, DATABASE_URL: await freshDatabase("gearsense_bay_2") };
    expect((await run("./gearsense", ["restore", file], { env: empty })).stderr).toMatch(/Restored: Tolm Gearboxes/);
    const asked = run("./gearsense", ["restore", file], { env: empty });
    asked.child.stdin?.end("no\n");
    await expect(asked).rejects.toThrow(/holds 1 jobs of Tolm Gearboxes[\s\S]*Type yes[\s\S]*Nothing was changed/);
    server = await start(empty.DATABASE_URL, folder);
    await signIn(phone, "iona");
    await expect(phone.getByText("Harbour taxi").first()).toBeVisible();

    // and in the page: what came after the backup is gone again, nobody is signed in
    await signIn(owner, "marl");
    await owner.goto(`${AT}/shop`);
    const backups = owner.getByRole("region", { name: "Backups" });
    await expect(backups.getByRole("listitem").first()).toBeVisible();
    await backups.getByRole("button", { name: "Make a copy now" }).click();
    await expect(backups.getByRole("listitem")).toHaveCount(2);
    const [download] = await Promise.all([
      owner.waitForEvent("download"),
      backups.getByRole("link", { name: "Download a backup" }).click(),
    ]);
    const fetched = join(folder, "fetched.tar");
    await download.saveAs(fetched);
    await backups.getByLabel("Backup to restore").setInputFiles(fetched);
    const restore = backups.getByRole("form", { name: "Restore fetched.tar" });
    await expect(restore.getByRole("button", { name: "Restore" })).toBeDisabled();
    await restore.getByLabel(/type the name of the shop/).fill("Tolm Gearboxes");
    expect(await serious(owner)).toEqual([]);
    await restore.getByRole("button", { name: "Restore" }).click();
    await expect(backups.getByText("Everybody signs in anew", { exact: false })).toBeVisible();
    await backups.getByRole("button", { name: "Sign in" }).click();
    await expect(owner.getByLabel("Sign-in name")).toBeVisible();
  } finally {
    await server?.end();
    rmSync(folder, { recursive: true, force: true });
  }
});
