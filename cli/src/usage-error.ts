/** A fault of the input or the command line: one clear line, exit code 2. */
export class UsageError extends Error {}
