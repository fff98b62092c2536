import type { ClientBase } from "pg";
import { to as copyTo } from "pg-copy-streams";

const SIGNATURE = Buffer.from("PGCOPY\n\xff\r\n\0", "latin1");

/**
 * Rows of a query as the bytes of their fields, one after another as they come: the driver's own rows would be text of twice the length.
 * Format: PostgreSQL documentation, COPY, "Binary Format".
 * @param query - without parameters: only names of the schema and ids go into it
 * @throws Error when the stream ends in the middle of a row
 */
export async function* copiedRows(client: ClientBase, query: string): AsyncGenerator<(Buffer | null)[]> {
  const pieces = client.query(copyTo(`copy (${query}) to stdout (format binary)`))[Symbol.asyncIterator]();
  let held = Buffer.alloc(0);
  const take = async (bytes: number): Promise<Buffer> => {
    const parts = [held];
    let have = held.length;
    while (have < bytes) {
      const { value, done } = await pieces.next();
      if (done) throw new Error("the database ended its rows in the middle of one");
      parts.push(value);
      have += (value as Buffer).length;
    }
    const all = parts.length === 1 ? held : Buffer.concat(parts);
    held = all.subarray(bytes);
    return all.subarray(0, bytes);
  };
  if (!(await take(SIGNATURE.length)).equals(SIGNATURE))
    throw new Error("the database does not copy rows as it is asked to");
  await take(4);
  await take((await take(4)).readInt32BE());
  for (;;) {
    const fields = (await take(2)).readInt16BE();
    if (fields < 0) break;
    const row: (Buffer | null)[] = [];
    for (let i = 0; i < fields; i++) {
      const bytes = (await take(4)).readInt32BE();
      row.push(bytes < 0 ? null : await take(bytes));
    }
    yield row;
  }
  // the connection is free again when the stream has ended
  while (!(await pieces.next()).done);
}
