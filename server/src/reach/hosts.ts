import type { RequestHandler } from "express";
import { HttpError } from "../http/errors.ts";
import { LOOPBACK } from "./addresses.ts";

/**
 * Refuses requests that call this server by a name that isn't its own: a page elsewhere could have its name lead here and
 * would then be at home.
 * @param names - besides those of loopback
 */
export function onlyCalled(names: readonly string[]): RequestHandler {
  const known = new Set<string>([...LOOPBACK, ...names.map((n) => n.toLowerCase())]);
  return (req, _res, next) => {
    const called = (req.get("host") ?? "").toLowerCase();
    const name = called.replace(/:\d+$/, "").replace(/^\[(.*)\]$/, "$1");
    next(
      known.has(name)
        ? undefined
        : new HttpError(
            421,
            "other-host",
            `This server isn’t called ${name.slice(0, 100) || "nothing"}. Whoever runs it starts it with --allow-host ${name.slice(0, 100) || "NAME"} if it should be.`,
          ),
    );
  };
}
