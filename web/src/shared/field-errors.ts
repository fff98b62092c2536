import { ApiFailure } from "../api/client.ts";

/** What the server says of a field. */
export const fieldError = (error: unknown, field: string): string | undefined =>
  error instanceof ApiFailure ? error.fields?.[field] : undefined;

/** A refusal that belongs to no field. */
export const plainError = (error: unknown): string | undefined =>
  error instanceof ApiFailure && Object.keys(error.fields ?? {}).length === 0 ? error.message : undefined;
