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
    } else if (error?.type === "entity.too.large")
      send(413, { code: "too-large", message: "The request is too large." });
    else if (error?.type === "entity.parse.failed")
      send(400, { code: "invalid", message: "The request is not valid JSON." });
    else {
      const id = randomUUID();
      log.error({ err: error, errorId: id, url: req.url }, "unexpected error");
      send(500, {
        code: "unexpected",
        message: `Something went wrong on the server. Nothing was stored. Try again; if it stays, tell the owner the number ${id}.`,
        id,
      });
    }
  };
}
