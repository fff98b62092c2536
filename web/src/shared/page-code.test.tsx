// Guards: code that is there is shown at once, what a page began with stays, and code that cannot be fetched breaks nothing before it is shown.
import { expect, it } from "@jest/globals";
import { PageCode } from "./page-code.tsx";

const Page = () => "a page";
const settled = () => new Promise((done) => setTimeout(done));

it("shows code that was fetched before as it is", async () => {
  const code = new PageCode(async () => ({ default: Page }));
  code.fetch();
  await settled();
  expect(code.component).toBe(Page);
});
it("stays with what it began with when the code comes later", async () => {
  const code = new PageCode(async () => ({ default: Page }));
  const begun = code.component;
  expect(begun).not.toBe(Page);
  code.fetch();
  await settled();
  expect(code.component).toBe(begun);
});
it("fetches nothing by itself, and code that cannot be fetched is no error before the page is shown", async () => {
  let asked = 0;
  const code = new PageCode(() => {
    asked++;
    return Promise.reject(new Error("no network"));
  });
  expect(code.component).not.toBe(Page);
  expect(asked).toBe(0);
  code.fetch();
  await settled();
  expect(asked).toBe(1);
});
