// Guards: work that is asked for is done once, whoever asks and whatever process is lost; what cannot be done is told.
import { randomUUID } from "node:crypto";
import { InputError } from "@gearsense/core/log";
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it } from "@jest/globals";
import type { Knex } from "knex";
import { pino } from "pino";
import { createAccountStore } from "../accounts/store.ts";
import { ShopScope } from "../db/shop-scope.ts";
import { HttpError } from "../http/errors.ts";
import { freshDatabase } from "../testing/harness.ts";
import { MOST_WAITING_OF_SHOP } from "./asking.ts";
import { idOf } from "./ids.ts";
import { openQueue, type Queue, RETRIES } from "./queue.ts";
import type { Attempt, Tasks, Workers } from "./work.ts";

const log = pino({ level: "silent" });
let url: string;
let db: Knex;
let drop: () => Promise<void>;
let scope: ShopScope;
let open: Queue[] = [];

beforeAll(async () => {
  ({ url, db, drop } = await freshDatabase());
  scope = new ShopScope(
    db,
    (await createAccountStore(db).createShop({ name: "A", currency: "EUR", hourlyRate: 60 })).id,
  );
});
afterAll(() => drop());
beforeEach(() => {
  open = [];
});
afterEach(async () => {
  await Promise.all(open.map((q) => q.close()));
  await db.raw("delete from pgboss.job");
});

type Export = (task: Tasks["export"], attempt: Attempt) => Promise<void>;

async function process(role: "web" | "worker" | "all", work: Export = async () => undefined): Promise<Queue> {
  const queue = await openQueue(url, { role, log, nobodyMs: 1500 });
  open.push(queue);
  const not = () => Promise.reject(new Error("not asked for here"));
  const workers: Workers = { analysis: not, paper: not, export: (_scope, task, attempt) => work(task, attempt) };
  if (role !== "web") queue.serve(workers, (shopId) => new ShopScope(db, shopId));
  return queue;
}

/** A promise and its end from outside. */
function later<T = void>() {
  let resolve!: (value: T) => void;
  const promise = new Promise<T>((r) => {
    resolve = r;
  });
  return { promise, resolve };
}

const untilAborted = (signal: AbortSignal) =>
  new Promise<never>((_, reject) => signal.addEventListener("abort", () => reject(signal.reason), { once: true }));

const task = (): Tasks["export"] => ({ jobId: randomUUID() });
const ask = (queue: Queue, more: { id?: string; signal?: AbortSignal; task?: Tasks["export"] } = {}) =>
  queue.ask(scope, "export", more.task ?? task(), { id: more.id ?? randomUUID(), signal: more.signal });

/** Looks until it is so; the test's own limit ends what never comes. */
async function until(so: () => boolean | Promise<boolean>): Promise<void> {
  while (!(await so())) await new Promise((r) => setTimeout(r, 20));
}

/** Ends the connection on which a process holds the lock of a piece of work, as its death would. */
const cutLine = (id: string) =>
  db.raw(
    `select pg_terminate_backend(pid) from pg_locks where locktype = 'advisory' and objid::bigint = (hashtext(?)::bigint & 4294967295)
       and database = (select oid from pg_database where datname = current_database())`,
    [id],
  );

describe("asking", () => {
  it("is answered when another process has done it", async () => {
    const done: string[] = [];
    await process("worker", async ({ jobId }) => void done.push(jobId));
    const web = await process("web");
    const asked = task();
    await ask(web, { task: asked });
    expect(done).toEqual([asked.jobId]);
  });
  it("twice under one id, from two processes, is one piece of work", async () => {
    let times = 0;
    const go = later();
    await process("worker", async () => {
      times++;
      await go.promise;
    });
    const [one, two] = [await process("web"), await process("web")];
    const id = randomUUID();
    const answers = [ask(one, { id }), ask(two, { id })];
    await until(() => times === 1);
    go.resolve();
    await Promise.all(answers);
    await ask(one, { id });
    expect(times).toBe(1);
  });
  it("keeps the class, code and words of a refusal, and does not try again", async () => {
    let times = 0;
    const all = await process("all", async ({ jobId }) => {
      times++;
      if (jobId.startsWith("0")) throw new InputError("empty-file", "the file is empty");
      throw new HttpError(409, "nothing-decided", "Nothing is decided yet.");
    });
    await expect(ask(all, { task: { jobId: "0" } })).rejects.toMatchObject({ status: 422, code: "empty-file" });
    await expect(ask(all, { task: { jobId: "1" } })).rejects.toMatchObject({
      status: 409,
      code: "nothing-decided",
      message: "Nothing is decided yet.",
    });
    expect(times).toBe(2);
  });
  it("is tried again after trouble, so often and no more", async () => {
    let times = 0;
    const all = await process("all", async ({ jobId }) => {
      times++;
      if (jobId === "always" || times <= RETRIES) throw new Error("trouble");
    });
    await ask(all, { task: { jobId: "at first" } });
    expect(times).toBe(RETRIES + 1);
    times = 0;
    await expect(ask(all, { task: { jobId: "always" } })).rejects.toThrow("trouble");
    expect(times).toBe(RETRIES + 1);
  });
  it("once more after it failed is a new beginning", async () => {
    let broken = true;
    const all = await process("all", async () => {
      if (broken) throw new Error("trouble");
    });
    const id = randomUUID();
    await expect(ask(all, { id })).rejects.toThrow("trouble");
    broken = false;
    await ask(all, { id });
  });
  it("is refused when too much of the shop waits, and what was left for later does not count", async () => {
    const web = await process("web");
    await web.leave(
      "export",
      Array.from({ length: 50 }, () => ({ id: randomUUID(), shopId: scope.shopId, task: task() })),
    );
    const gone = Array.from({ length: MOST_WAITING_OF_SHOP }, () => new AbortController());
    const asked = gone.map(({ signal }) => ask(web, { signal }));
    for (const a of asked) a.catch(() => undefined);
    await until(async () =>
      (await web.counts()).some((c) => c.state === "created" && c.count === 50 + MOST_WAITING_OF_SHOP),
    );
    await expect(ask(web)).rejects.toMatchObject({ status: 503, code: "busy" });
    for (const g of gone) g.abort();
    await until(async () =>
      (await web.counts()).some((c) => c.state === "cancelled" && c.count === MOST_WAITING_OF_SHOP),
    );
    const last = ask(web);
    await process("worker");
    await last;
  });
});

describe("a client that has gone", () => {
  it("ends the work, in the other process too", async () => {
    const [begun, ended] = [later(), later()];
    await process("worker", async (_task, { signal }) => {
      begun.resolve();
      await untilAborted(signal).finally(ended.resolve);
    });
    const web = await process("web");
    const gone = new AbortController();
    const asked = ask(web, { signal: gone.signal });
    await begun.promise;
    gone.abort(new Error("gone"));
    await expect(asked).rejects.toThrow("gone");
    await ended.promise;
    expect(await web.counts()).toEqual([{ kind: "export", state: "cancelled", count: 1 }]);
  });
  it("takes nothing from another who waits for the same", async () => {
    let times = 0;
    const go = later();
    await process("worker", async (_task, { signal }) => {
      times++;
      if (times === 1) await untilAborted(signal);
      await go.promise;
    });
    const [one, two] = [await process("web"), await process("web")];
    const id = randomUUID();
    const gone = new AbortController();
    const first = ask(one, { id, signal: gone.signal });
    const second = ask(two, { id });
    await until(() => times === 1);
    gone.abort(new Error("gone"));
    await expect(first).rejects.toThrow("gone");
    await until(() => times > 1);
    go.resolve();
    await second;
  });
});

describe("a process that is lost", () => {
  it("has its work begun again by another, and nobody who waits is told", async () => {
    let times = 0;
    const hangs = later();
    const work: Export = async () => {
      times++;
      if (times === 1) await hangs.promise;
    };
    await process("worker", work);
    await process("worker", work);
    const web = await process("web");
    const id = randomUUID();
    const asked = ask(web, { id });
    await until(() => times === 1);
    // it never gets its lock back
    await until(async () => {
      if (times === 1) await cutLine(id);
      return times === 2;
    });
    await asked;
    expect(times).toBe(2);
    hangs.resolve();
  });
  it("gives its work back when it is asked to end", async () => {
    const begun = later();
    let again = false;
    const first = await process("worker", async (_task, { signal }) => {
      begun.resolve();
      await untilAborted(signal);
    });
    const web = await process("web");
    const asked = ask(web);
    await begun.promise;
    const closed = first.close();
    await process("worker", async () => {
      again = true;
    });
    await Promise.all([closed, asked]);
    expect(again).toBe(true);
    open = open.filter((q) => q !== first);
  });
  it("is missed when there is no other", async () => {
    const web = await process("web");
    await expect(ask(web)).rejects.toMatchObject({ status: 503, code: "nobody-works" });
  });
});

describe("what is told of the work of a job", () => {
  it("is its place in the line, then what is being done, then nothing", async () => {
    const [staged, go] = [later(), later()];
    await process("worker", async (_task, { stage }) => {
      stage("packing");
      staged.resolve();
      await go.promise;
    });
    const web = await process("web");
    const [first, second] = [task(), task()];
    const asked = [ask(web, { task: first })];
    await staged.promise;
    asked.push(ask(web, { task: second }), ask(web, { task: second }));
    await until(async () => (await web.ofJob(scope.shopId, second.jobId)).length === 2);
    await until(async () => (await web.ofJob(scope.shopId, first.jobId))[0]?.stage === "packing");
    expect(await web.ofJob(scope.shopId, first.jobId)).toMatchObject([{ kind: "export", state: "running" }]);
    expect((await web.ofJob(scope.shopId, second.jobId)).map((w) => [w.state, w.ahead])).toEqual([
      ["waiting", 0],
      ["waiting", 1],
    ]);
    expect(await web.ofJob(randomUUID(), first.jobId)).toEqual([]);
    go.resolve();
    await Promise.all(asked);
    expect(await web.ofJob(scope.shopId, second.jobId)).toEqual([]);
  });
});

describe("the id of work", () => {
  it("is a UUID, the same for the same words and for no others", () => {
    expect(idOf("a", "b")).toMatch(/^[0-9a-f]{8}-[0-9a-f]{4}-8[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/);
    expect(idOf("a", "b")).toBe(idOf("a", "b"));
    expect(new Set([idOf("a", "b"), idOf("ab"), idOf("a", "b", ""), idOf("b", "a")]).size).toBe(4);
  });
});
