import { DUAL_CLUTCH_KINDS } from "./dual-clutch-kinds.ts";
import type { FaultKind } from "./kind.ts";
import { PLANETARY_KINDS } from "./planetary-kinds.ts";
import { VEHICLE_KINDS } from "./vehicle-kinds.ts";

/** Everything that can be broken on purpose, by part of the unit. */
export const FAULT_KINDS: readonly FaultKind[] = [...PLANETARY_KINDS, ...VEHICLE_KINDS, ...DUAL_CLUTCH_KINDS];
