/** How a channel lies in the data of an identifier. */
export interface LinkChannel {
  readonly channel: string;
  readonly ecu: "engine" | "transmission";
  /** "0xA001" */
  readonly did: string;
  readonly bytes: 1 | 2 | 4;
  readonly signed?: boolean | undefined;
  /** value = raw · scale + offset, raw with its highest byte first */
  readonly scale: number;
  readonly offset: number;
  readonly unit?: string | undefined;
  /** a value that stands for "no reading" */
  readonly invalid?: number | undefined;
}

/** Which identifier holds which channel: the open file format `gearsense-link`. */
export interface LinkDefinition {
  readonly format: "gearsense-link";
  readonly version: 1;
  readonly name: string;
  readonly channels: readonly LinkChannel[];
}

/** Says that a vehicle is the simulated one, in ASCII: only to this one anything is sent that changes something. */
export const SIMULATED_DID = 0xf1a0;
export const SIMULATED_TEXT = "GEARSENSE SIMULATED VEHICLE";

const DID = /^0x[0-9a-f]{4}$/i;

/** @returns what is wrong with a definition, by path; empty when it can be used */
export function checkLinkDefinition(definition: LinkDefinition): { path: string; reason: string }[] {
  const problems: { path: string; reason: string }[] = [];
  const channels = new Map<string, number>();
  const places = new Map<string, number>();
  definition.channels.forEach((c, i) => {
    const path = `channels.${i}`;
    if (!DID.test(c.did)) problems.push({ path: `${path}.did`, reason: 'write it as "0xA001"' });
    if (!Number.isFinite(c.scale) || c.scale === 0) problems.push({ path: `${path}.scale`, reason: "must not be 0" });
    if (!Number.isFinite(c.offset)) problems.push({ path: `${path}.offset`, reason: "must be a number" });
    const same = channels.get(c.channel);
    if (same !== undefined)
      problems.push({ path: `${path}.channel`, reason: `"${c.channel}" is given twice, also in channels.${same}` });
    channels.set(c.channel, i);
    const key = `${c.ecu} ${c.did.toLowerCase()}`;
    const other = places.get(key);
    if (other !== undefined)
      problems.push({
        path: `${path}.did`,
        reason: `${c.did} of the ${c.ecu} is given twice, also in channels.${other}`,
      });
    places.set(key, i);
  });
  if (definition.channels.length === 0) problems.push({ path: "channels", reason: "needs at least one channel" });
  return problems;
}

export const didOf = (c: LinkChannel): number => Number.parseInt(c.did, 16);

const rangeOf = ({ bytes, signed }: LinkChannel): readonly [number, number] =>
  signed ? [-(2 ** (8 * bytes - 1)), 2 ** (8 * bytes - 1) - 1] : [0, 2 ** (8 * bytes) - 1];

/** A value as the bytes of its identifier; what does not fit stands at the end of its range, no reading at `invalid`. */
export function encodeChannel(c: LinkChannel, value: number): Uint8Array {
  const [least, most] = rangeOf(c);
  let raw = Number.isFinite(value)
    ? Math.min(most, Math.max(least, Math.round((value - c.offset) / c.scale)))
    : (c.invalid ?? least);
  if (raw < 0) raw += 2 ** (8 * c.bytes);
  const data = new Uint8Array(c.bytes);
  for (let i = c.bytes - 1; i >= 0; i--) {
    data[i] = raw % 256;
    raw = Math.floor(raw / 256);
  }
  return data;
}

/** The value that the bytes of an identifier hold. @returns NaN for no reading; undefined when there are too few bytes */
export function decodeChannel(c: LinkChannel, data: Uint8Array): number | undefined {
  if (data.length < c.bytes) return undefined;
  let raw = 0;
  for (let i = 0; i < c.bytes; i++) raw = raw * 256 + (data[i] as number);
  if (c.signed && raw >= 2 ** (8 * c.bytes - 1)) raw -= 2 ** (8 * c.bytes);
  return raw === c.invalid ? Number.NaN : raw * c.scale + c.offset;
}

type Shape = Pick<LinkChannel, "bytes" | "signed" | "scale" | "offset" | "unit">;
const shape = (scale: number, unit?: string, more: Partial<Shape> = {}): Shape => ({
  bytes: 2,
  scale,
  offset: 0,
  ...(unit ? { unit } : {}),
  ...more,
});
/** Steps and ranges that a control unit of today would have. */
function shapeOf(channel: string): Shape {
  if (/_rpm$/.test(channel)) return shape(0.25, "rpm");
  if (/_nm$/.test(channel)) return shape(0.1, "N·m", { signed: true });
  if (/_c$/.test(channel)) return shape(0.1, "°C", { offset: -60 });
  if (/_kmh$/.test(channel)) return shape(0.01, "km/h");
  if (/_kpa$/.test(channel) || channel.startsWith("adapt_touch")) return shape(1, "kPa");
  if (channel.startsWith("adapt_")) return shape(0.1);
  if (/_pct$/.test(channel) || channel.startsWith("sol_") || channel === "tcc_command") return shape(0.1, "%");
  return shape(1, undefined, { signed: true });
}

const ENGINE_CHANNELS: ReadonlySet<string> = new Set([
  "engine_rpm",
  "engine_torque_nm",
  "pedal_pct",
  "throttle_pct",
  "brake_on",
]);
const FIRST_DID = 0xa000;
const NO_READING_16 = 0x7fff;

/** The definition of the simulated vehicle for the channels that it has. */
export function usualDefinition(name: string, channels: readonly string[]): LinkDefinition {
  return {
    format: "gearsense-link",
    version: 1,
    name,
    channels: channels.map((channel, i) => ({
      channel,
      ecu: ENGINE_CHANNELS.has(channel) ? "engine" : "transmission",
      did: `0x${(FIRST_DID + i).toString(16).toUpperCase()}`,
      ...shapeOf(channel),
      invalid: NO_READING_16,
    })),
  };
}
