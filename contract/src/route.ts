import type { z } from "zod";
import type { Role } from "./views.ts";

export interface RouteSpec {
  readonly method: "get" | "post" | "delete";
  /** Express notation */
  readonly path: string;
  readonly summary: string;
  /** lowest role that may call it; undefined = no sign-in needed */
  readonly role: Role | undefined;
  readonly query?: z.ZodObject | undefined;
  readonly body?: z.ZodType | "bytes" | undefined;
  readonly response: z.ZodType | "bytes" | "none";
}

export const route = <const R extends RouteSpec>(r: R): R => r;
