import type { RelearnMachine } from "@gearsense/core/unit";

const STANDING = ["relearn", "relearn-standing"];
/** What stands before a procedure, by its kind. */
export const CAUTIONS_OF: Readonly<Record<RelearnMachine["kind"], readonly string[]>> = {
  stationary: STANDING,
  "basic-setting": STANDING,
  "write-back": STANDING,
  "drive-cycle": ["relearn", "road-test", "drive-recorder"],
};
