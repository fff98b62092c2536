export type { EcuAddress } from "./addresses.ts";
export { ECUS, ENGINE, FUNCTIONAL, TRANSMISSION } from "./addresses.ts";
export { InOrder, LineClock } from "./bus-side.ts";
export type { LinkChannel, LinkDefinition } from "./definition.ts";
export {
  checkLinkDefinition,
  decodeChannel,
  didOf,
  encodeChannel,
  SIMULATED_DID,
  SIMULATED_TEXT,
  usualDefinition,
} from "./definition.ts";
export type { DeviceFaults } from "./device.ts";
export { Device } from "./device.ts";
export type { EcuModel, EcuRoutine } from "./ecu.ts";
export { Ecu } from "./ecu.ts";
export type { CanFrame, TimedFrame } from "./frame.ts";
export { LineReader, readFrame, writeFrame } from "./frame.ts";
export { guardRequest, WriteRefused } from "./guard.ts";
export type { RecordedRow, RecorderState } from "./recorder.ts";
export { LogText, Recorder } from "./recorder.ts";
export type { Outcome, Patience } from "./requester.ts";
export { Requester, USUAL_PATIENCE } from "./requester.ts";
export { RoadClock } from "./road-clock.ts";
export type { RoutineStatusRecord } from "./routine.ts";
export {
  askRoutine,
  extendSession,
  readRoutineStatus,
  startRoutine,
  stopRoutine,
  writeRoutineStatus,
  writeValue,
} from "./routine.ts";
export { type ServedDevice, serveDevice } from "./serve.ts";
export type { ReadCode, Response } from "./services.ts";
export {
  codeBytes,
  codeOf,
  emissionCodes,
  PIDS,
  pidsIn,
  REFUSAL,
  refusalWords,
  SERVICE,
  STATUS,
  statusCodes,
} from "./services.ts";
export type { Batch, Wire } from "./session.ts";
export { batchesOf, LinkError, LinkSession, readAllCodes, readBatch, readPid, readVin, valuesIn } from "./session.ts";
export { tcpWire } from "./tcp.ts";
export type { TransportEvent, TransportFailure } from "./transport.ts";
export { separationOf, TransportEndpoint, USUAL_LIMITS } from "./transport.ts";
