import { InputError } from "@gearsense/core/log";
import { HttpError } from "../http/errors.ts";

interface Refusal {
  readonly refused: { readonly status: number; readonly code: string; readonly message: string };
}

/** What work was refused with, to be kept as its answer; undefined for trouble, which is no answer. */
export function refusalOf(error: unknown): Refusal | undefined {
  if (error instanceof HttpError) {
    const { status, code, message } = error;
    return { refused: { status, code, message } };
  }
  if (error instanceof InputError) return { refused: { status: 422, code: error.code, message: error.message } };
  return undefined;
}

export function refusalFrom(output: unknown): HttpError | undefined {
  const refused = (output as Partial<Refusal> | null)?.refused;
  return refused && new HttpError(refused.status, refused.code, refused.message);
}
