/** A log that cannot be used, told apart by `code`. The sentence names the place and the remedy. */
export type InputErrorCode =
  | "empty-file"
  | "binary-file"
  | "too-large"
  | "archive"
  | "no-table"
  | "one-column"
  | "too-wide"
  | "line-too-long"
  | "no-time"
  | "no-rows"
  | "no-definition"
  | "bad-definition"
  | "mixed-units"
  | "too-short"
  | "duplicate-channel"
  | "channels-missing"
  | "wrong-unit";

export class InputError extends Error {
  readonly code: InputErrorCode;
  /** line of the file, 1-based, when the fault has a place */
  readonly line: number | undefined;
  constructor(code: InputErrorCode, message: string, line?: number) {
    super(message);
    this.name = "InputError";
    this.code = code;
    this.line = line;
  }
}
