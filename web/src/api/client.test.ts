// Guards: addresses of calls, and what a person is told when the server refuses or cannot be reached.

import { API } from "@gearsense/contract";
import { afterEach, describe, expect, it } from "@jest/globals";
import { ApiFailure, call, failureFrom, urlOf } from "./client.ts";

const realFetch = globalThis.fetch;
afterEach(() => {
  globalThis.fetch = realFetch;
});
const answer = (make: (url: string, init: RequestInit) => Response | Promise<Response>) => {
  globalThis.fetch = (async (url: string, init: RequestInit) => make(url, init)) as typeof fetch;
};

describe("addresses", () => {
  it("have their parts filled in and escaped", () => {
    expect(urlOf("analysis", { jobId: "a/b", logId: "ü" })).toBe("/api/jobs/a%2Fb/logs/%C3%BC/analysis");
    expect(urlOf("uploadLog", { jobId: "1" }, { fileName: "a b.csv", role: "after" })).toBe(
      "/api/jobs/1/logs?fileName=a+b.csv&role=after",
    );
  });
  it("are those of the contract, for every route", () => {
    for (const [name, route] of Object.entries(API)) {
      const params = Object.fromEntries([...route.path.matchAll(/:(\w+)/g)].map((m) => [m[1], "x"]));
      expect(urlOf(name as keyof typeof API, params)).toBe(route.path.replace(/:\w+/g, "x"));
    }
  });
});

describe("refusals", () => {
  it("carry code, fields and the entry that stands now", () => {
    const failure = failureFrom(
      409,
      JSON.stringify({
        error: { code: "stale", message: "Changed by Iona", fields: { a: "b" }, current: { id: "e" } },
      }),
    );
    expect(failure).toMatchObject({ status: 409, code: "stale", message: "Changed by Iona", fields: { a: "b" } });
    expect(failure.current?.id).toBe("e");
  });
  it("of something that is not our server are told as such", () => {
    expect(failureFrom(502, "<html>bad gateway</html>")).toMatchObject({ code: "unexpected", status: 502 });
  });
  it("a dead network says that nothing typed is lost", async () => {
    answer(() => Promise.reject(new TypeError("fetch failed")));
    await expect(call("jobs")).rejects.toMatchObject({ code: "offline", status: 0 });
    await expect(call("jobs")).rejects.toThrow(/What you typed is kept/);
  });
  it("an aborted call is an abort, not a dead network", async () => {
    const stop = new AbortController();
    stop.abort();
    answer(() => Promise.reject(new DOMException("stopped", "AbortError")));
    await expect(call("jobs", { signal: stop.signal })).rejects.not.toBeInstanceOf(ApiFailure);
  });
});

describe("a write that was not answered", () => {
  const entry = (text: string) => ({ kind: "note", body: { text }, baseSeq: 0 }) as never;
  const keyOf = async (text: string, status: number | "gone") => {
    let key: string | undefined;
    answer((_url, init) => {
      key = (init.headers as Record<string, string>)["idempotency-key"];
      if (status === "gone") throw new TypeError("fetch failed");
      return new Response("{}", { status });
    });
    await call("addEntry", { params: { jobId: "1" }, body: entry(text) }).catch(() => undefined);
    return key;
  };
  it("is sent again with its key; an answered one, or another, gets a key of its own", async () => {
    const first = await keyOf("a", "gone");
    expect(first).toMatch(/^[0-9a-f]{32}$/);
    expect(await keyOf("b", "gone")).not.toBe(first);
    expect(await keyOf("a", 503)).toBe(first);
    expect(await keyOf("a", 200)).toBe(first);
    const second = await keyOf("a", 409);
    expect(second).not.toBe(first);
    expect(await keyOf("a", 200)).not.toBe(second);
  });
});

describe("calls", () => {
  it("send what the contract says and read the answer", async () => {
    const seen: { url: string; init: RequestInit }[] = [];
    answer((url, init) => {
      seen.push({ url, init });
      return new Response(JSON.stringify({ ok: true }), { status: 200 });
    });
    await call("signIn", { body: { email: "a", password: "b" } as never });
    expect(seen[0]).toMatchObject({ url: "/api/session", init: { method: "POST" } });
    expect(JSON.parse(String(seen[0]?.init.body))).toEqual({ email: "a", password: "b" });
    answer(() => new Response(null, { status: 204 }));
    await expect(call("signOut")).resolves.toBeUndefined();
  });
});
