import { useEffect, useState, useSyncExternalStore } from "react";
import { dropPhoto, photos, type WaitingPhoto } from "./outbox";

/** The photos of something that wait on this device for a connection. */
export function WaitingPhotos({ postTo }: { postTo: string }) {
  const all = useSyncExternalStore(photos.watch, photos.get);
  return all.filter((p) => p.postTo === postTo).map((p) => <Waiting key={p.key} photo={p} />);
}

function Waiting({ photo }: { photo: WaitingPhoto }) {
  const [url, setUrl] = useState<string>();
  useEffect(() => {
    const made = URL.createObjectURL(photo.file);
    setUrl(made);
    return () => URL.revokeObjectURL(made);
  }, [photo.file]);
  return (
    <figure className="max-w-40">
      <img src={url} alt="not sent yet" className="h-28 border-2 border-look" />
      <figcaption className="text-sm">
        {photo.fault || "waits for a connection"}
        {photo.fault && (
          <button
            type="button"
            className="block min-h-10 underline underline-offset-4"
            onClick={() => dropPhoto(photo.key)}
          >
            Discard it
          </button>
        )}
      </figcaption>
    </figure>
  );
}
