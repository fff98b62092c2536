/** Where a step is done, in words. */
export const PLACES = {
  top: "from above",
  under: "from beneath",
  cabin: "in the cabin",
  bench: "at the bench",
} as const;
