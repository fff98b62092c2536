import { createHash } from "node:crypto";
import pLimit from "p-limit";
import sharp from "sharp";
import { HttpError } from "../http/errors.ts";

/** What a photo may have before it is looked at, and how it is kept. */
export const MAX_PHOTO_BYTES = 40 * 1024 * 1024;
const MAX_PIXELS = 80e6;
/** One whose lines come in several passes has to be unpacked whole. */
const MAX_PIXELS_IN_PASSES = 40e6;
const KEPT_PX = 1600;
const QUALITY = 88;
/** Formats by their first bytes. Only the first three are handed to the decoder. */
const KINDS: readonly (readonly [string, (b: Buffer) => boolean])[] = [
  ["JPEG", (b) => b.readUIntBE(0, 3) === 0xffd8ff],
  ["PNG", (b) => b.readUInt32BE(0) === 0x89504e47],
  ["WebP", (b) => b.toString("latin1", 0, 4) === "RIFF" && b.toString("latin1", 8, 12) === "WEBP"],
  ["GIF", (b) => b.toString("latin1", 0, 4) === "GIF8"],
  ["HEIF", (b) => b.toString("latin1", 4, 8) === "ftyp"],
  ["SVG", (b) => /^\s*(?:<\?xml|<svg)/.test(b.toString("latin1", 0, 200))],
];
const READ: ReadonlySet<string> = new Set(["JPEG", "PNG", "WebP"]);
const LEAST_BYTES = 16;
// one picture at a time is enough for a shop, and bounds the memory
const inTurn = pLimit(1);
sharp.concurrency(1);
sharp.cache(false);

export interface Picture {
  readonly content: Buffer;
  readonly sha256: string;
  readonly widthPx: number;
  readonly heightPx: number;
}

const refuse = (message: string) => new HttpError(422, "bad-picture", `${message} Nothing was stored.`);

/**
 * Turns whatever a camera gave into what is kept: upright, at most 1600 px wide or high, sRGB, JPEG, without anything that
 * was written beside the picture (place, time, camera).
 * @throws HttpError 422 `bad-picture`, 413 `too-large`
 */
export const preparePicture = (bytes: Buffer): Promise<Picture> => inTurn(() => prepare(bytes));

async function prepare(bytes: Buffer): Promise<Picture> {
  if (bytes.length === 0) throw refuse("The file is empty.");
  if (bytes.length > MAX_PHOTO_BYTES)
    throw new HttpError(
      413,
      "too-large",
      `The picture has over ${MAX_PHOTO_BYTES >> 20} MB. Take it at a lower resolution. Nothing was stored.`,
    );
  const noPicture = () =>
    refuse("This file isn’t a picture, whatever its name says. Choose a JPEG, PNG or WebP photo.");
  const kind = bytes.length < LEAST_BYTES ? undefined : KINDS.find(([, is]) => is(bytes))?.[0];
  if (!kind) throw noPicture();
  if (!READ.has(kind))
    throw refuse(
      `A ${kind} picture is not read here. ${kind === "HEIF" ? "Set the camera to JPEG (most compatible)." : "Choose a JPEG, PNG or WebP photo."}`,
    );
  const image = sharp(bytes, { limitInputPixels: false, failOn: "error" });
  let pixels: number;
  let most: number;
  try {
    const { width, height, isProgressive } = await image.metadata();
    pixels = width * height;
    most = isProgressive ? MAX_PIXELS_IN_PASSES : MAX_PIXELS;
  } catch {
    throw noPicture();
  }
  // told by its header, before a pixel is unpacked
  if (pixels > most)
    throw refuse(
      `The picture has ${Math.round(pixels / 1e6)} megapixels; up to ${most / 1e6} are read${most < MAX_PIXELS ? " of one that is saved in passes (interlaced, progressive)" : ""}. Take it at a lower resolution.`,
    );
  try {
    const { data, info } = await image
      .rotate()
      .resize({ width: KEPT_PX, height: KEPT_PX, fit: "inside", withoutEnlargement: true })
      .flatten({ background: "#ffffff" })
      .toColourspace("srgb")
      .jpeg({ quality: QUALITY, chromaSubsampling: "4:4:4" })
      .toBuffer({ resolveWithObject: true });
    return {
      content: data,
      sha256: createHash("sha256").update(data).digest("hex"),
      widthPx: info.width,
      heightPx: info.height,
    };
  } catch {
    throw refuse("The picture is damaged: only part of it could be read. Take it again.");
  }
}
