import { useState } from "react";
import { ApiError, messageOf } from "../../api/client";
import { Fault } from "../form";
import { postFile } from "../post";
import { useSession } from "../session";
import { useRefresh } from "../write";
import { keepPhoto } from "./outbox";
import { WaitingPhotos } from "./WaitingPhotos";

/** Photos of something, with a way to add one from the camera or a file. The
 *  server turns them upright and strips all but the picture. */
export function PhotoStrip({ ids, postTo, of }: { ids: readonly number[]; postTo?: string; of: string }) {
  const refresh = useRefresh();
  const { account } = useSession();
  const [fault, setFault] = useState("");
  const [busy, setBusy] = useState(false);
  async function add(file: File | undefined) {
    if (!file || !postTo) return;
    setBusy(true);
    setFault("");
    const kind = file.type.startsWith("image/") ? file.type : "image/jpeg";
    try {
      await postFile(postTo, file, kind);
      await refresh();
    } catch (error) {
      const away = error instanceof ApiError && error.status === 0;
      // Without a connection it is kept on this device and sent when there is one.
      const kept = away && (await keepPhoto(postTo, kind, file, account));
      if (!kept) setFault(messageOf(error));
    } finally {
      setBusy(false);
    }
  }
  if (!postTo && ids.length === 0) return null;
  return (
    <div>
      <div className="flex flex-wrap gap-3">
        {ids.map((id, i) => (
          <a key={id} href={`/api/photos/${id}`} target="_blank" rel="noreferrer">
            <img
              src={`/api/photos/${id}?small=true`}
              alt={`${i + 1} of ${of}`}
              className="h-28 border-2 border-line"
              loading="lazy"
            />
          </a>
        ))}
        {postTo && <WaitingPhotos postTo={postTo} />}
        {postTo && (
          <label className="no-print inline-flex min-h-11 cursor-pointer items-center self-start border-2 border-line bg-leaf px-4 font-semibold focus-within:outline-3 focus-within:outline-accent hover:border-accent">
            {busy ? "Keeping the photo …" : "Add a photo"}
            <input
              type="file"
              accept="image/*"
              capture="environment"
              className="sr-only"
              disabled={busy}
              onChange={(e) => {
                add(e.target.files?.[0]);
                e.target.value = ""; // the same picture can be chosen again
              }}
            />
          </label>
        )}
      </div>
      <Fault text={fault} />
    </div>
  );
}
