import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { ApiError, messageOf, type Schemas } from "../api/client";
import { Fault } from "../parts/form";

const LONGEST = 2000;

/** Photos of a step. The picture is turned upright and made smaller here, and
 *  stripped of everything but the picture on the server. */
export function Photos({ orderId, step, mayWork }: { orderId: number; step: Schemas["OrderStep"]; mayWork: boolean }) {
  const client = useQueryClient();
  const [fault, setFault] = useState("");
  const [busy, setBusy] = useState(false);
  async function add(file: File | undefined) {
    if (!file) return;
    setBusy(true);
    setFault("");
    try {
      const response = await fetch(`/api/work/${orderId}/steps/${step.key}/photos`, {
        method: "POST",
        headers: { "Content-Type": "image/jpeg" },
        body: await shrink(file),
      });
      if (!response.ok)
        throw new ApiError(
          (await response.json().catch(() => ({})))?.detail ?? "The photo was not kept; try again.",
          response.status,
        );
      await client.invalidateQueries({ queryKey: ["order", orderId] });
    } catch (error) {
      setFault(messageOf(error));
    } finally {
      setBusy(false);
    }
  }
  if (!mayWork && step.photos.length === 0) return null;
  return (
    <div className="mt-4">
      <div className="flex flex-wrap gap-3">
        {step.photos.map((id, i) => (
          <a key={id} href={`/api/photos/${id}`} target="_blank" rel="noreferrer">
            <img src={`/api/photos/${id}`} alt={`${i + 1} at this step`} className="h-28 border-2 border-line" />
          </a>
        ))}
        {mayWork && (
          <label className="no-print inline-flex min-h-11 cursor-pointer items-center self-start border-2 border-line bg-leaf px-4 font-semibold focus-within:outline-3 focus-within:outline-brass hover:border-brass">
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

async function shrink(file: File): Promise<Blob> {
  const picture = await createImageBitmap(file, { imageOrientation: "from-image" }).catch(() => {
    throw new Error(`"${file.name}" is not a picture that can be read; take a JPEG or PNG.`);
  });
  const scale = Math.min(1, LONGEST / Math.max(picture.width, picture.height));
  const canvas = document.createElement("canvas");
  canvas.width = Math.round(picture.width * scale);
  canvas.height = Math.round(picture.height * scale);
  canvas.getContext("2d")?.drawImage(picture, 0, 0, canvas.width, canvas.height);
  return new Promise((resolve, reject) =>
    canvas.toBlob(
      (b) => (b ? resolve(b) : reject(new Error("The picture could not be made smaller."))),
      "image/jpeg",
      0.88,
    ),
  );
}
