import { ApiError } from "../api/client";

/** Sends a file as it is, and gives the answer or an ApiError with a sentence. */
export async function postFile<T>(path: string, file: Blob, kind = "application/octet-stream"): Promise<T> {
  let response: Response;
  try {
    response = await fetch(path, { method: "POST", headers: { "Content-Type": kind }, body: file });
  } catch {
    throw new ApiError("No answer from the server, so nothing was kept: check the connection, then try again.", 0);
  }
  const answer = await response.json().catch(() => ({}));
  if (response.status === 413) throw new ApiError("The file is too large to be taken.", 413);
  if (!response.ok)
    throw new ApiError(answer?.detail ?? `The server answered ${response.status}; try again.`, response.status);
  return answer as T;
}
