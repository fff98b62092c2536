export type { CircuitPicture, Known, Measured, Reading, Segment, SegmentState } from "./circuit.ts";
export { readCircuit } from "./circuit.ts";
export { circuitFacts } from "./facts.ts";
