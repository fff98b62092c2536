import type { RequestHandler } from "express";
import { HttpError } from "./errors.ts";

const READS = new Set(["GET", "HEAD", "OPTIONS"]);
/** A program that is no browser says so by this header, which a page elsewhere cannot send without being asked first. */
export const PROGRAM_HEADER = "x-gearsense-client";

/**
 * A write comes from a page of this very address, or from a program that says so. Another port of the same host is another
 * address, though its pages are sent our cookie.
 */
export const sameOriginOnly: RequestHandler = (req, _res, next) => {
  if (READS.has(req.method)) {
    next();
    return;
  }
  const origin = req.get("origin");
  const own = origin === undefined ? req.get(PROGRAM_HEADER) !== undefined : hostOf(origin) === req.host?.toLowerCase();
  next(
    own
      ? undefined
      : new HttpError(
          403,
          "other-origin",
          origin === undefined
            ? `A write needs the header Origin, or ${PROGRAM_HEADER} from a program. Nothing was stored.`
            : `This write was sent by a page of ${origin.slice(0, 100)}, not by Gearsense. Nothing was stored.`,
        ),
  );
};

function hostOf(origin: string): string | undefined {
  try {
    return new URL(origin).host;
  } catch {
    return undefined;
  }
}
