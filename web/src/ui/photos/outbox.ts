import { del, set, values } from "idb-keyval";
import { messageOf } from "../../api/client";
import { newKey } from "../../api/keyed";
import { notNow } from "../../api/retried";
import { watched } from "../../api/watched";
import { postFile } from "../post";

/** A photo that was taken without a connection. Its key lets the server know it again, however
 * often it is sent. It is sent in the session of whoever took it; one that an earlier version
 * kept has no account. */
export type WaitingPhoto = {
  key: string;
  postTo: string;
  kind: string;
  file: Blob;
  at: number;
  account?: number;
  fault?: string;
};

/** What waits on this device, in the order in which it was taken. */
export const photos = watched<readonly WaitingPhoto[]>([]);

let sending = false;

/** Reads what an earlier page of this device left. */
export async function readPhotos() {
  const kept = await values<WaitingPhoto>();
  photos.set(kept.filter((p) => p.file instanceof Blob).sort((a, b) => a.at - b.at));
}

/** Keeps a photo on this device until it is sent; reports whether the device could. */
export async function keepPhoto(postTo: string, kind: string, file: Blob, account: number): Promise<boolean> {
  let photo: WaitingPhoto;
  try {
    // The picture itself: a camera's own file may be gone by then.
    const copy = new Blob([await file.arrayBuffer()], { type: kind });
    photo = { key: newKey(), postTo, kind, file: copy, at: Date.now(), account };
    await set(photo.key, photo);
  } catch {
    return false; // no room, or a browser that keeps nothing
  }
  photos.set([...photos.get(), photo]);
  return true;
}

export async function dropPhoto(key: string) {
  await del(key);
  photos.set(photos.get().filter((p) => p.key !== key));
}

/** Whether a photo is to be sent in somebody's session. */
export function toSend(p: WaitingPhoto, account: number): boolean {
  return !p.fault && (p.account === undefined || p.account === account);
}

/** Sends what waits of an account; reports whether something arrived. What the server refuses stays, with its
 * sentence. */
export async function sendPhotos(account: number): Promise<boolean> {
  if (sending) return false;
  sending = true;
  let arrived = false;
  try {
    for (const photo of photos.get()) {
      if (!toSend(photo, account)) continue;
      try {
        await postFile(photo.postTo, photo.file, photo.kind, photo.key);
        await dropPhoto(photo.key);
        arrived = true;
      } catch (error) {
        if (notNow(error)) break;
        const refused = { ...photo, fault: messageOf(error) };
        await set(photo.key, refused);
        photos.set(photos.get().map((p) => (p.key === photo.key ? refused : p)));
      }
    }
  } finally {
    sending = false;
  }
  return arrived;
}
