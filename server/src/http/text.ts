import { HttpError } from "./errors.ts";

const DEEPEST = 40;
/** With the flag u a pair is one character: what is found stands alone. */
const HALF = /\p{Surrogate}/u;

/**
 * Text that PostgreSQL cannot keep: a null character, half of a pair of surrogates. Looked for in keys as well as values.
 * @param where - "body", "address"
 * @throws HttpError 400 with the place
 */
export function refuseBrokenText(where: string, value: unknown, path: readonly string[] = []): void {
  const refuse = (what: string) => {
    const at = path.join(".") || where;
    throw new HttpError(400, "invalid", `${at}: ${what}. Type it again.`, { fields: { [at]: what } });
  };
  if (typeof value === "string") {
    if (value.includes("\u0000")) refuse("holds a null character");
    if (HALF.test(value)) refuse("holds half of a character");
    return;
  }
  if (typeof value !== "object" || value === null) return;
  if (path.length > DEEPEST) refuse("is nested too deeply");
  for (const [key, part] of Object.entries(value)) {
    refuseBrokenText(where, key, [...path, key]);
    refuseBrokenText(where, part, [...path, key]);
  }
}
