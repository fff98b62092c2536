import { createStore, del, entries, set, type UseStore } from "idb-keyval";

/** A photo that waits for the network, kept on this device until the server has it. */
export interface WaitingPhoto {
  readonly photoId: string;
  readonly jobId: string;
  readonly about: string;
  readonly caption: string;
  readonly file: Blob;
  readonly takenAt: string;
  /** a refusal of the server: it will not be sent again by itself */
  readonly refused?: string | undefined;
}

export type Sent = "stored" | "waits" | { readonly refused: string };

let store: UseStore | undefined;
const photos = (): UseStore => (store ??= createStore("gearsense-photos", "waiting"));

export const keepPhoto = (photo: WaitingPhoto): Promise<void> => set(photo.photoId, photo, photos());
export const dropPhoto = (photoId: string): Promise<void> => del(photoId, photos());

/** The photos of a job that wait, oldest first. */
export async function waitingPhotos(jobId: string): Promise<WaitingPhoto[]> {
  const all = await entries<string, WaitingPhoto>(photos());
  return all
    .map(([, p]) => p)
    .filter((p) => p.jobId === jobId)
    .sort((a, b) => a.takenAt.localeCompare(b.takenAt));
}

/**
 * Sends what waits, one after another, until one finds no network. What the server refuses is kept with its reason, for
 * the person to look at; what it took is forgotten here.
 * @returns how many the server has now
 */
export async function flushPhotos(
  list: readonly WaitingPhoto[],
  send: (p: WaitingPhoto) => Promise<Sent>,
  keep = keepPhoto,
  drop = dropPhoto,
): Promise<number> {
  let stored = 0;
  for (const p of list) {
    if (p.refused) continue;
    const sent = await send(p);
    if (sent === "waits") break;
    if (sent === "stored") {
      await drop(p.photoId);
      stored++;
    } else await keep({ ...p, refused: sent.refused });
  }
  return stored;
}
