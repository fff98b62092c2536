// A shop with a hundred thousand jobs: the board shows them by pages, and a search finds any of them.

import { expect, test } from "@playwright/test";
import pg from "pg";
import { signedIn } from "./support.ts";

const MANY = 100_000;

test("a search finds one of 100,000 jobs; the board shows fifty at a time", async ({ page, context }) => {
  // the other shop of the demo, so that no flow of the first meets them
  const url = new URL(process.env.TEST_DATABASE_URL as string);
  url.pathname = "/gearsense_e2e_4177";
  const db = new pg.Client({ connectionString: url.href });
  await db.connect();
  const { rows } = await db.query("select id from shop where name <> 'Harbour Road Transmissions' limit 1");
  const [shop] = rows as { id: string }[];
  await db.query(
    `with v as (
       insert into vehicle (id, shop_id, name, plate, owner)
       select gen_random_uuid(), $1, 'Cart ' || n, 'SK ' || n, 'Crofter ' || n from generate_series(1, $2) n returning id, name
     )
     insert into job (id, shop_id, number, vehicle_id, unit_id, unit_name, unit, odometer_km, opened_at, stage, complaint, last_entry_at)
     select gen_random_uuid(), $1, (100000 + substr(name, 6)::int)::text, id, 'tarn-f4', 'Tarn F4', '{}', 1, now(), 'work',
       'Slips, cart ' || substr(name, 6), now() from v`,
    [shop?.id, MANY],
  );
  // the one that is opened has a unit
  await db.query(
    "update job set unit = (select unit from job where unit_id = 'tarn-f4' and unit <> '{}' limit 1) where number = '151234'",
  );
  await db.end();
  await signedIn(context, "odda");
  await page.goto("/");
  await expect(page.getByRole("heading", { name: /Bay board · 1\d{5} open/ })).toBeVisible();
  const cards = page.getByRole("main").getByRole("listitem");
  await expect(cards).toHaveCount(50);
  await page.getByRole("button", { name: "Show more" }).first().click();
  await expect(cards).toHaveCount(100);
  await page.keyboard.press("/");
  const search = page.getByRole("dialog", { name: "Search jobs" });
  await search.getByPlaceholder(/^Number, vehicle/).fill("crofter sk 73219");
  await expect(search.getByRole("option")).toHaveCount(1);
  await expect(search.getByRole("option")).toContainText("173219");
  // Enter straight after the words: what they mean is opened, not what stood there before
  await page.route("**/api/jobs?**", async (route) => {
    await new Promise((later) => setTimeout(later, 300));
    await route.continue();
  });
  await search.getByPlaceholder(/^Number, vehicle/).fill("crofter sk 51234");
  await page.keyboard.press("Enter");
  await expect(page.getByText(/^Job 151234/)).toBeVisible();
  await page.unroute("**/api/jobs?**");
  await page.keyboard.press("/");
  await search.getByPlaceholder(/^Number, vehicle/).fill("nobody has this");
  await expect(search.getByText("No job matches.")).toBeVisible();
  await search.getByPlaceholder(/^Number, vehicle/).fill("cart");
  await expect(search.getByRole("option")).toHaveCount(20);
  await search.getByRole("button", { name: "More" }).click();
  await expect(search.getByRole("option")).toHaveCount(40);
});
