// Guards: what a page says of the network: cut, kept, back, and a server that was renewed meanwhile.
import { beforeEach, describe, expect, it } from "@jest/globals";
import { forgetNetwork, heard, KEPT_HEADER, networkNow, noAnswer, VERSION_HEADER } from "./network.ts";

beforeEach(forgetNetwork);
const kept = (date: string) => heard(new Headers({ [KEPT_HEADER]: date }));
const of = (version: string) => heard(new Headers({ [VERSION_HEADER]: version }));

describe("the network", () => {
  it("is cut from the first call without an answer until the server answers itself", () => {
    noAnswer();
    const { cutSinceMs } = networkNow();
    expect(cutSinceMs).toBeDefined();
    kept("Mon, 30 Nov 2026 10:00:00 GMT");
    expect(networkNow().cutSinceMs).toBe(cutSinceMs);
    heard(new Headers());
    expect(networkNow()).toEqual({ cutSinceMs: undefined, keptAtMs: undefined, renewed: false });
  });
  it("an answer kept on the device says that it is cut; the oldest of them counts", () => {
    kept("Mon, 30 Nov 2026 10:00:00 GMT");
    kept("Mon, 30 Nov 2026 09:00:00 GMT");
    kept("Mon, 30 Nov 2026 11:00:00 GMT");
    expect(networkNow().keptAtMs).toBe(Date.parse("2026-11-30T09:00:00Z"));
    expect(networkNow().cutSinceMs).toBeDefined();
  });
  it("a server that was renewed is told until the page is loaded anew", () => {
    of("a");
    of("a");
    expect(networkNow().renewed).toBe(false);
    of("b");
    of("a");
    expect(networkNow().renewed).toBe(true);
  });
  it("what was kept of an earlier version makes the server's own a renewed one", () => {
    heard(new Headers({ [KEPT_HEADER]: "Mon, 30 Nov 2026 10:00:00 GMT", [VERSION_HEADER]: "a" }));
    of("b");
    expect(networkNow().renewed).toBe(true);
  });
});
