import { ApiError } from "../api/client";

/** Sends a large file as it is, telling how far it has come, and gives the answer or an ApiError with
 * a sentence. It can be stopped. */
export function sendFile<T>(
  path: string,
  file: Blob,
  onProgress: (share: number) => void,
  stop: AbortSignal,
): Promise<T> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("POST", path);
    request.setRequestHeader("Content-Type", "application/octet-stream");
    request.responseType = "json";
    request.upload.onprogress = (e) => e.lengthComputable && onProgress(e.loaded / e.total);
    request.onload = () => {
      const answer = request.response as { detail?: string } | null;
      if (request.status === 413)
        reject(new ApiError("The file is larger than 8 GiB, the most that is taken here.", 413));
      else if (request.status >= 200 && request.status < 300) resolve(request.response as T);
      else reject(new ApiError(answer?.detail ?? `The server answered ${request.status}; try again.`, request.status));
    };
    request.onerror = () => reject(new ApiError("The connection broke off, so nothing was kept: try again.", 0));
    request.onabort = () => reject(new ApiError("Stopped; nothing was kept.", 0));
    stop.addEventListener("abort", () => request.abort());
    request.send(file);
  });
}
