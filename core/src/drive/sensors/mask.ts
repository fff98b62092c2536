import type { Drive } from "../measure.ts";
import { dropouts } from "./dropouts.measure.ts";
import { dropoutMask } from "./dropouts.ts";

/** 1 where a speed sensor is not to be believed; length of the frame. */
export const sensorMask = (drive: Drive): Uint8Array =>
  drive.once(sensorMask, () =>
    drive.frame.inputKnown
      ? dropoutMask(drive.frame, drive.of(dropouts))
      : new Uint8Array(drive.frame.timeS.length).fill(1),
  );
