/** @jest-environment ../../../scripts/jest-browser.mjs */
// Guards: keys rest while somebody types and within a dialog, the newest screen's come first; Enter in the search opens what
// was searched for, however late the answer comes.
import { afterEach, describe, expect, it } from "@jest/globals";
import { waitFor } from "@testing-library/react";
import { cleanup, shown } from "../testing/page.tsx";
import JobSearchDialog from "./JobSearchDialog.tsx";
import { type Shortcut, ShortcutProvider, useShortcuts } from "./shortcuts.tsx";

afterEach(cleanup);

function Keys({ list }: { list: readonly Shortcut[] }) {
  useShortcuts(list);
  return null;
}

describe("keys", () => {
  const screen = () => {
    const pressed: string[] = [];
    const key = (k: string, by: string) => ({ key: k, label: by, group: "Test", run: () => void pressed.push(by) });
    const page = shown(
      <ShortcutProvider>
        <Keys list={[key("t", "application"), key("?", "help"), key("Enter", "go on")]} />
        <Keys list={[key("t", "screen")]} />
        <input aria-label="note" />
        <button type="button">Store</button>
        <div role="dialog" tabIndex={-1} data-testid="dialog" />
      </ShortcutProvider>,
    );
    return { pressed, ...page };
  };
  it("run what the newest screen has them for", async () => {
    const { user, pressed } = screen();
    await user.keyboard("t?");
    expect(pressed).toEqual(["screen", "help"]);
  });
  it("rest in a field, in a dialog, and with a modifier held", async () => {
    const { user, pressed, getByLabelText, getByTestId } = screen();
    await user.type(getByLabelText("note"), "tt?");
    getByTestId("dialog").focus();
    await user.keyboard("t");
    document.body.focus();
    getByTestId("dialog").blur();
    await user.keyboard("{Control>}t{/Control}");
    expect(pressed).toEqual([]);
  });
  it("leave Enter to the button it is pressed on", async () => {
    const { user, pressed, getByRole } = screen();
    getByRole("button", { name: "Store" }).focus();
    await user.keyboard("{Enter}");
    expect(pressed).toEqual([]);
    getByRole("button", { name: "Store" }).blur();
    await user.keyboard("{Enter}");
    expect(pressed).toEqual(["go on"]);
  });
});

describe("the search for jobs", () => {
  const job = (id: string, name: string) => ({ id, number: id, vehicle: { name }, complaint: "slips" });
  const JOBS = [job("0901", "Post van"), job("0902", "Mobile library"), job("0903", "Library bus")];
  /** Answers as the server does; each answer waits until it is let go. */
  const search = () => {
    const waiting: { find: string; answer: () => void }[] = [];
    globalThis.fetch = ((url: string) =>
      new Promise<Response>((resolve) => {
        const find = new URL(url, "http://x").searchParams.get("find") ?? "";
        const jobs = JOBS.filter((j) => j.vehicle.name.toLowerCase().includes(find));
        const body = JSON.stringify({ jobs, next: null, byStage: {} });
        const headers = new Headers();
        const answer = () =>
          resolve({ ok: true, status: 200, headers, json: async () => JSON.parse(body) } as Response);
        waiting.push({ find, answer });
      })) as typeof fetch;
    const page = shown(<JobSearchDialog onClose={() => undefined} />);
    const answer = async (find: string) => {
      const until = Date.now() + 10_000;
      while (!waiting.some((w) => w.find === find) && Date.now() < until) await new Promise((r) => setTimeout(r, 5));
      for (const w of waiting.splice(0)) if (w.find === find) w.answer();
    };
    return { answer, where: () => page.getByTestId("where").textContent, ...page };
  };
  it("opens what Enter was pressed for, when the answer comes after it", async () => {
    const { user, getByPlaceholderText, findByText, answer, where } = search();
    await answer("");
    await findByText("Post van");
    await user.type(getByPlaceholderText(/Number, vehicle/), "library{Enter}");
    expect(where()).toBe("/");
    await answer("library");
    await waitFor(() => expect(where()).toBe("/jobs/0902"));
  });
  it("opens the first of a list that has just come, though another was marked in the one before", async () => {
    const { user, getByPlaceholderText, findByText, queryByText, answer, where } = search();
    await answer("");
    await findByText("Post van");
    await user.type(getByPlaceholderText(/Number, vehicle/), "library");
    await answer("library");
    await waitFor(() => expect(queryByText("Post van")).toBeNull());
    await user.keyboard("{Enter}");
    expect(where()).toBe("/jobs/0902");
  });
  it("opens the one that the arrow keys went to", async () => {
    const { user, getByPlaceholderText, findByText, answer, where } = search();
    await answer("");
    await findByText("Post van");
    await user.type(getByPlaceholderText(/Number, vehicle/), "{ArrowDown}{ArrowDown}{Enter}");
    expect(where()).toBe("/jobs/0903");
  });
});
