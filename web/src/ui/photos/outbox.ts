import { del, set, values } from "idb-keyval";
import { ApiError, messageOf } from "../../api/client";
import { newKey } from "../../api/keyed";
import { postFile } from "../post";

/** A photo that was taken without a connection. Its key lets the server know it again, however
 * often it is sent. */
export type WaitingPhoto = { key: string; postTo: string; kind: string; file: Blob; at: number; fault?: string };

let waiting: readonly WaitingPhoto[] = [];
const watchers = new Set<() => void>();
let sending = false;

function show(list: readonly WaitingPhoto[]) {
  waiting = list;
  for (const changed of watchers) changed();
}

/** What waits on this device, in the order in which it was taken. */
export function waitingPhotos(): readonly WaitingPhoto[] {
  return waiting;
}

export function watchPhotos(changed: () => void) {
  watchers.add(changed);
  return () => {
    watchers.delete(changed);
  };
}

/** Reads what an earlier page of this device left. */
export async function readPhotos() {
  const kept = await values<WaitingPhoto>();
  show(kept.filter((p) => p.file instanceof Blob).sort((a, b) => a.at - b.at));
}

/** Keeps a photo on this device until it is sent; reports whether the device could. */
export async function keepPhoto(postTo: string, kind: string, file: Blob): Promise<boolean> {
  let photo: WaitingPhoto;
  try {
    // The picture itself: a camera's own file may be gone by then.
    const copy = new Blob([await file.arrayBuffer()], { type: kind });
    photo = { key: newKey(), postTo, kind, file: copy, at: Date.now() };
    await set(photo.key, photo);
  } catch {
    return false; // no room, or a browser that keeps nothing
  }
  show([...waiting, photo]);
  return true;
}

export async function dropPhoto(key: string) {
  await del(key);
  show(waiting.filter((p) => p.key !== key));
}

/** Sends what waits; reports whether something arrived. What the server refuses stays, with its sentence. */
export async function sendPhotos(): Promise<boolean> {
  if (sending) return false;
  sending = true;
  let arrived = false;
  try {
    for (const photo of waiting) {
      if (photo.fault) continue;
      try {
        await postFile(photo.postTo, photo.file, photo.kind, photo.key);
        await dropPhoto(photo.key);
        arrived = true;
      } catch (error) {
        if (error instanceof ApiError && (error.status === 0 || error.status >= 500)) break; // still away
        const refused = { ...photo, fault: messageOf(error) };
        await set(photo.key, refused);
        show(waiting.map((p) => (p.key === photo.key ? refused : p)));
      }
    }
  } finally {
    sending = false;
  }
  return arrived;
}
