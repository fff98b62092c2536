// The whole job by keyboard alone: no pointer is ever used.
import { expect, type Page, test } from "@playwright/test";
import { csv, madeLog, PASSWORD, WORN_THIRD_CLUTCH } from "./support.ts";

/** Tabs on until the focused element carries the name. */
async function tabTo(page: Page, name: RegExp, most = 90): Promise<void> {
  for (let i = 0; i < most; i++) {
    const at = await page.evaluate(() => {
      const e = document.activeElement as HTMLElement | null;
      if (!e || e === document.body) return "";
      const labelled = e.getAttribute("aria-labelledby");
      const label =
        e instanceof HTMLInputElement || e instanceof HTMLTextAreaElement || e instanceof HTMLSelectElement
          ? e.labels?.[0]?.innerText
          : undefined;
      return (
        e.getAttribute("aria-label") ??
        label ??
        (labelled ? document.getElementById(labelled)?.innerText : undefined) ??
        e.innerText ??
        ""
      );
    });
    if (name.test(at)) return;
    await page.keyboard.press("Tab");
  }
  throw new Error(`no element named ${name} was reached by Tab`);
}

async function fill(page: Page, name: RegExp, text: string): Promise<void> {
  await tabTo(page, name);
  await page.keyboard.type(text);
}

/** Arrow keys move within a group of choices; the group is entered by Tab. */
async function choose(page: Page, group: string, option: string): Promise<void> {
  const radio = page.getByRole("radiogroup", { name: group }).getByRole("radio", { name: option, exact: true });
  const members = page.getByRole("radiogroup", { name: group }).getByRole("radio");
  await tabTo(
    page,
    new RegExp(`^(${(await members.allInnerTexts()).map((t) => t.replace(/[.*+?^${}()|[\]\\]/g, "\\$&")).join("|")})$`),
  );
  await page.keyboard.press("Space");
  await expect(page.locator(":focus")).toHaveAttribute("aria-checked", "true");
  for (let i = 0; i < 9 && (await radio.getAttribute("aria-checked")) !== "true"; i++) {
    // held until the choice has followed the focus, as a finger does
    const before = await page.locator(":focus").innerText();
    await page.keyboard.down("ArrowRight");
    await expect(page.locator(":focus")).not.toHaveText(before);
    await expect(page.locator(":focus")).toHaveAttribute("aria-checked", "true");
    await page.keyboard.up("ArrowRight");
  }
  await expect(radio).toHaveAttribute("aria-checked", "true");
}

/** Ticks what has to be so before a step, each box reached by Tab. */
async function tickByTab(page: Page): Promise<void> {
  const boxes = page.getByRole("group", { name: "Tick each once it is done" }).getByRole("checkbox");
  await boxes.first().waitFor();
  for (const box of await boxes.all()) {
    for (let i = 0; i < 80 && !(await box.evaluate((e) => e === document.activeElement)); i++)
      await page.keyboard.press("Tab");
    await page.keyboard.press("Space");
    await expect(box).toBeChecked();
  }
}

async function rest(page: Page): Promise<void> {
  // leave the field, so that the letter keys work
  await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
}

async function dropLog(page: Page, name: string, text: string): Promise<void> {
  await expect(page.getByRole("button", { name: "Choose a log" })).toBeEnabled();
  await rest(page);
  const chooser = page.waitForEvent("filechooser");
  await page.keyboard.press("Enter");
  await (await chooser).setFiles(csv(name, text));
  await expect(page.getByRole("heading", { name: /what each column is/ })).toBeVisible();
  await expect(page.getByRole("button", { name: "Analyse the drive" })).toBeEnabled();
  await rest(page);
  await page.keyboard.press("Enter");
}

test("a job from opening to hand-over without a pointer", async ({ page }) => {
  // the browser hands choosers over from here on: asked for at the moment of a key press it may come too late
  page.on("filechooser", () => {});
  test.setTimeout(180_000);
  const before = madeLog([WORN_THIRD_CLUTCH], { seed: 401 });
  const after = madeLog([], { seed: 402 });
  await page.goto("/");
  await expect(page.getByLabel("Sign-in name")).toBeFocused();
  await page.keyboard.type("iona");
  await fill(page, /^Password/, PASSWORD);
  await page.keyboard.press("Enter");
  await expect(page.getByRole("heading", { name: /Bay board/ })).toBeVisible();

  await page.keyboard.press("?");
  await expect(page.getByRole("dialog", { name: "Keys" })).toContainText("Search jobs");
  await page.keyboard.press("Escape");
  await page.keyboard.press("/");
  await expect(page.getByRole("dialog", { name: "Search jobs" })).toBeVisible();
  await page.keyboard.type("library");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("link", { name: /back to the bay board/ })).toContainText("Mobile library van");
  await page.keyboard.press("b");
  await expect(page.getByRole("heading", { name: /Bay board/ })).toBeVisible();

  await page.keyboard.press("n");
  await expect(page.getByRole("heading", { name: "Open a job" })).toBeVisible();
  await fill(page, /^Vehicle$/, "Lighthouse buggy");
  await fill(page, /^Owner$/, "Skerrow Lights");
  // the list of units comes from the server: typed into an empty one, letters choose nothing
  await expect(page.getByRole("option", { name: /^Brae/ })).toBeAttached();
  await tabTo(page, /^Transmission$/);
  await page.keyboard.type("Brae");
  await fill(page, /^Mileage/, "88000");
  await fill(page, /^Complaint/, "Slips on the rise.");
  await page.keyboard.press("Enter");
  await tabTo(page, /^Search/);
  await tabTo(page, /^Open the job$/);
  await page.keyboard.press("Enter");

  await expect(page.getByRole("heading", { name: "First look" })).toBeVisible();
  await choose(page, "Level", "Level correct");
  await fill(page, /^Fluid temperature/, "40");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("link", { name: /First look, done/ })).toBeVisible();

  await rest(page);
  await page.keyboard.press("s");
  await expect(page.getByRole("heading", { name: "Scan", exact: true })).toBeVisible();
  await expect(page.getByRole("button", { name: "Choose a log" })).toBeVisible();
  await dropLog(page, "before.csv", before.text);
  await expect(page.getByTestId("trace")).toBeVisible();
  await tabTo(page, /^Drive of/);
  const shown = async () =>
    [
      Number(await page.getByTestId("trace").getAttribute("data-start")),
      Number(await page.getByTestId("trace").getAttribute("data-end")),
    ] as const;
  const whole = await shown();
  await page.keyboard.press("ArrowRight");
  await expect(page.getByRole("button", { name: /^Finding 1:/ })).toHaveAttribute("aria-pressed", "true");
  const width = async () => {
    const [from, to] = await shown();
    return to - from;
  };
  await expect.poll(width).toBeLessThan((whole[1] - whole[0]) / 4);
  await page.keyboard.press("ArrowRight");
  await expect(page.getByRole("button", { name: /^Finding 2:/ })).toHaveAttribute("aria-pressed", "true");
  await page.keyboard.press("+");
  const closer = await shown();
  await page.keyboard.press("Shift+ArrowRight");
  expect((await shown())[0]).toBeGreaterThan(closer[0]);
  await page.keyboard.press("0");
  expect(await shown()).toEqual(whole);

  await rest(page);
  await page.keyboard.press("o");
  await expect(page.getByRole("heading", { name: /One part explains/ })).toBeVisible();
  await rest(page);
  await page.keyboard.press("d");
  await expect(page.getByRole("heading", { name: "Decide" })).toBeVisible();
  await expect(page.getByRole("radio", { name: /rebuild third clutch/ }).first()).toBeVisible();
  await tabTo(page, /Exchange unit|Unit out|Leave it/);
  await page.keyboard.press("Space");
  await fill(page, /^Reason/, "Slips in its gears only.");
  await rest(page);
  await page.keyboard.press("Enter");
  await expect(page.getByRole("heading", { name: "Work", exact: true })).toBeVisible();
  await tickByTab(page);
  await fill(page, /^What was done/, "Clutch renewed.");
  await fill(page, /^Minutes$/, "640");
  await page.keyboard.press("Enter");
  await expect(page.getByText("640 min · Iona Tullo")).toBeVisible();

  await rest(page);
  await page.keyboard.press("p");
  await expect(page.getByRole("heading", { name: "Proof" })).toBeVisible();
  await expect(page.getByRole("button", { name: "Choose a log" })).toBeVisible();
  await dropLog(page, "after.csv", after.text);
  await expect(page.getByText(/\d of \d gone; .* (not shown again yet|not exercised)/)).toBeVisible();
  // what was not driven again is signed off with a word on why
  await rest(page);
  await expect(page.getByRole("button", { name: "Accept the proof" })).toBeDisabled();
  await tabTo(page, /^Note on the proof/);
  await page.keyboard.type("No hill on this side of the island.");
  await tabTo(page, /^Accept the proof$/);
  await page.keyboard.press("Enter");
  await expect(page.getByRole("heading", { name: "Hand-over" })).toBeVisible();
  await rest(page);
  await page.keyboard.press("Enter");
  await expect(page.getByText("The job is closed.")).toBeVisible();
  // undo by a correcting entry
  await rest(page);
  await page.keyboard.press("u");
  await expect(page.getByRole("dialog", { name: "Take back this entry?" })).toContainText("handed over");
  await tabTo(page, /^Take back$/);
  await page.keyboard.press("Enter");
  await expect(page.getByText("The job is closed.")).toBeHidden();
  await rest(page);
  await page.keyboard.press("t");
  await expect(page.getByText("taken back", { exact: true })).toBeVisible();
});
