import { createStore, del, entries, set, type UseStore } from "idb-keyval";

/** A photo that waits for the network, kept on this device until the server has it. */
export interface WaitingPhoto {
  readonly photoId: string;
  readonly jobId: string;
  readonly about: string;
  readonly caption: string;
  readonly file: Blob;
  readonly takenAt: string;
  /** id and name of the account that took it: it is sent in no other name */
  readonly by: string;
  readonly name: string;
  /** a refusal of the server: it will not be sent again by itself */
  readonly refused?: string | undefined;
}

export type Sent = "stored" | "waits" | { readonly refused: string };

let store: UseStore | undefined;
const photos = (): UseStore => (store ??= createStore("gearsense-photos", "waiting"));

export const keepPhoto = (photo: WaitingPhoto): Promise<void> => set(photo.photoId, photo, photos());
export const dropPhoto = (photoId: string): Promise<void> => del(photoId, photos());

/** The photos that wait on this device, oldest first. */
export async function waitingPhotos(): Promise<WaitingPhoto[]> {
  const all = await entries<string, WaitingPhoto>(photos());
  return all.map(([, p]) => p).sort((a, b) => a.takenAt.localeCompare(b.takenAt));
}

/**
 * Sends what one person took, one after another, until one finds no network. What the server refuses is kept with its reason, for
 * the person to look at; what it took is forgotten here.
 * @returns how many the server has now, and whether it stopped for want of a network
 */
export async function flushPhotos(
  list: readonly WaitingPhoto[],
  by: string,
  send: (p: WaitingPhoto) => Promise<Sent>,
  keep = keepPhoto,
  drop = dropPhoto,
): Promise<{ readonly stored: number; readonly waits: boolean }> {
  let stored = 0;
  for (const p of list) {
    if (p.refused || p.by !== by) continue;
    const sent = await send(p);
    if (sent === "waits") return { stored, waits: true };
    if (sent === "stored") {
      await drop(p.photoId);
      stored++;
    } else await keep({ ...p, refused: sent.refused });
  }
  return { stored, waits: false };
}
