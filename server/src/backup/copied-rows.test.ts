// Guards: rows come as the bytes that the database holds, however they are cut up on the way; the connection is free afterwards, and an end in the
// middle of a row is told.
import { PassThrough } from "node:stream";
import { afterAll, beforeAll, describe, expect, it } from "@jest/globals";
import type { ClientBase } from "pg";
import { freshDatabase } from "../testing/harness.ts";
import { copiedRows } from "./copied-rows.ts";
import { withClient } from "./copies.ts";

let database: Awaited<ReturnType<typeof freshDatabase>>;
beforeAll(async () => {
  database = await freshDatabase(true);
});
afterAll(() => database.drop());

const all = async (client: ClientBase, query: string) => {
  const rows: (Buffer | null)[][] = [];
  for await (const row of copiedRows(client, query)) rows.push(row);
  return rows;
};
/** A client that hands out these pieces. */
const handing = (pieces: readonly Buffer[]) => {
  const stream = new PassThrough();
  for (const p of pieces) stream.write(p);
  stream.end();
  return { query: () => stream } as unknown as ClientBase;
};

describe("rows as bytes", () => {
  it("are those of the database: text, every byte, nothing, and null; then it answers again", async () => {
    await withClient(database.url, async (client) => {
      const bytes =
        "(select decode(string_agg(lpad(to_hex(n), 2, '0'), '' order by n), 'hex') from generate_series(0, 255) n)";
      const rows = await all(
        client,
        `select 'ä', ${bytes}, ''::bytea, null::bytea union all select 'b', null, null, null`,
      );
      expect(rows).toHaveLength(2);
      expect(rows[0]?.[0]?.toString()).toBe("ä");
      expect([...(rows[0]?.[1] ?? [])]).toEqual(Array.from({ length: 256 }, (_, i) => i));
      expect([rows[0]?.[2]?.length, rows[0]?.[3]]).toEqual([0, null]);
      expect((await client.query("select 1 as one")).rows).toEqual([{ one: 1 }]);
      expect(await all(client, "select 1 where false")).toEqual([]);
    });
  });
  it("are the same in pieces of any length", async () => {
    const signature = Buffer.from("PGCOPY\n\xff\r\n\0\0\0\0\0\0\0\0\0", "latin1");
    const whole = Buffer.concat([
      signature,
      Buffer.from([0, 1, 0, 0, 0, 3, 7, 8, 9, 0, 1, 255, 255, 255, 255, 255, 255]),
    ]);
    for (const length of [1, 2, 5, 11, 40]) {
      const pieces = Array.from({ length: Math.ceil(whole.length / length) }, (_, i) =>
        whole.subarray(i * length, (i + 1) * length),
      );
      expect(await all(handing(pieces), "x")).toEqual([[Buffer.from([7, 8, 9])], [null]]);
    }
    await expect(all(handing([whole.subarray(0, -4)]), "x")).rejects.toThrow(/in the middle/);
    await expect(all(handing([Buffer.from("no such stream at all")]), "x")).rejects.toThrow(/does not copy/);
  });
});
