import { randomUUID } from "node:crypto";
import type { Entry } from "@gearsense/core/job";
import { InputError } from "@gearsense/core/log";
import type { ErrorRequestHandler } from "express";
import type { Logger } from "pino";
import { ZodError } from "zod";

/** A refusal with a status. Say what is wrong, where, and what to do. */
export class HttpError extends Error {
  readonly status: number;
  readonly code: string;
  readonly current: Entry | undefined;
  /** reasons by place */
  readonly fields: Readonly<Record<string, string>> | undefined;
  constructor(
    status: number,
    code: string,
    message: string,
    more: { current?: Entry | undefined; fields?: Readonly<Record<string, string>> } = {},
  ) {
    super(message);
    this.status = status;
    this.code = code;
    this.current = more.current;
    this.fields = more.fields;
  }
}

export const notFound = (what: string) =>
  new HttpError(
    404,
    "not-found",
    `Your shop doesn’t have this ${what}. The address may be mistyped; go back to the bay board.`,
  );

const words = (error: unknown, key: string): string => {
  const value = (error as Record<string, unknown> | null)?.[key];
  return typeof value === "string" ? value : "";
};

/** Classes and codes of PostgreSQL and of a connection to it that cannot be had. */
const NO_DATABASE =
  /^(08...|57P0[123]|53300|ECONNREFUSED|ECONNRESET|EPIPE|ENOTFOUND|ETIMEDOUT|KnexTimeoutError|TimeoutError)$/;
const NO_ROOM = /^(53100|ENOSPC|EDQUOT)$/;
/** What `pg` says of a connection that ended under a query; it gives no code. */
const ENDED =
  /^(Connection terminated|Client has encountered a connection error|timeout exceeded when trying to connect)/;

/** Trouble of the machine that nobody at the screen has made: what to do is wait, or to make room. */
export function troubleOf(error: unknown): HttpError | undefined {
  const [code, name] = [words(error, "code"), words(error, "name")];
  if (NO_ROOM.test(code))
    return new HttpError(
      507,
      "no-room",
      "The disk of the server is full. Nothing was stored. Tell the owner: room has to be made, then send it again.",
    );
  if (NO_DATABASE.test(code) || NO_DATABASE.test(name) || ENDED.test(words(error, "message")))
    return new HttpError(
      503,
      "no-database",
      "The database of the server cannot be reached just now. Nothing was stored. Try again in a minute.",
    );
  return undefined;
}

/** What Express and its parsers refuse before a route is reached. */
function parserRefusal(error: unknown): { status: number; code: string; message: string } | undefined {
  const type = words(error, "type");
  const status = Number((error as { status?: unknown } | null)?.status);
  if (type === "entity.too.large") return { status: 413, code: "too-large", message: "The request is too large." };
  if (type === "entity.parse.failed")
    return { status: 400, code: "invalid", message: "body: the request is not valid JSON." };
  if (type === "charset.unsupported")
    return { status: 400, code: "invalid", message: "content-type: the charset is not known; send UTF-8." };
  if (type === "encoding.unsupported")
    return { status: 400, code: "invalid", message: "content-encoding: not known; send gzip, br, deflate or none." };
  if (error instanceof URIError || (status === 400 && words(error, "message").includes("decode param")))
    return { status: 400, code: "invalid", message: "address: a % is not followed by two hexadecimal digits." };
  if (status >= 400 && status < 500)
    return { status: 400, code: "invalid", message: `body: ${words(error, "message") || "could not be read"}.` };
  return undefined;
}

function fieldsOf(error: ZodError): Record<string, string> {
  return Object.fromEntries(error.issues.map((i) => [i.path.join(".") || "body", i.message]));
}

/** Maps every error to a status and a body, in one place. Unexpected ones get an id that finds them in the log. */
export function errorHandler(log: Logger): ErrorRequestHandler {
  return (error, req, res, next) => {
    if (res.headersSent) {
      next(error);
      return;
    }
    const send = (status: number, body: Record<string, unknown>) => res.status(status).json({ error: body });
    const [trouble, refusal] = [troubleOf(error), parserRefusal(error)];
    if (error instanceof HttpError)
      send(error.status, {
        code: error.code,
        message: error.message,
        ...(error.current ? { current: error.current } : {}),
        ...(error.fields ? { fields: error.fields } : {}),
      });
    else if (error instanceof InputError) send(422, { code: error.code, message: error.message });
    else if (error instanceof ZodError) {
      const fields = fieldsOf(error);
      const [where, what] = Object.entries(fields)[0] ?? ["body", "is not valid"];
      send(400, { code: "invalid", message: `${where}: ${what}.`, fields });
    } else if (trouble) {
      log.error({ err: error, url: req.url }, trouble.code);
      if (trouble.status === 503) res.setHeader("retry-after", "30");
      send(trouble.status, { code: trouble.code, message: trouble.message });
    } else if (refusal) {
      const { status, ...body } = refusal;
      send(status, body);
    } else {
      // the number under which the whole request stands in the log
      const id = String(req.id ?? randomUUID());
      log.error({ err: error, errorId: id, url: req.url }, "unexpected error");
      send(500, {
        code: "unexpected",
        message: `Something went wrong on the server. Nothing was stored. Try again; if it stays, tell the owner the number ${id}.`,
        id,
      });
    }
  };
}
