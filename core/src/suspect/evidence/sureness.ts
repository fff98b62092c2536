import type { Sureness } from "../../job/index.ts";

/** How far an observation is believed. */
export const SURENESS: Readonly<Record<Sureness, number>> = { sure: 0.97, fairly: 0.75, doubtful: 0.4 };
