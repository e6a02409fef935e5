import { ApiError, type Schemas } from "../api/client";
import { send } from "../api/keyed";

/** Sends a file as it is, and gives the answer or an ApiError with a sentence. A key makes it the
 * same however often it is sent. */
export async function postFile<T>(
  path: string,
  file: Blob,
  kind = "application/octet-stream",
  key?: string,
): Promise<T> {
  const headers = { "Content-Type": kind, ...(key && { "Idempotency-Key": key }) };
  let response: Response;
  try {
    response = await send(new Request(path, { method: "POST", headers, body: file }));
  } catch {
    throw new ApiError("No answer from the server, so nothing was kept: check the connection, then try again.", 0);
  }
  const answer = await response.json().catch(() => ({}));
  if (response.status === 413) throw new ApiError("The file is too large to be taken.", 413);
  if (!response.ok)
    throw new ApiError(answer?.detail ?? `The server answered ${response.status}; try again.`, response.status);
  return answer as T;
}

/** Sends a file in, and gives the hash by which what follows names it. Of settings no secret is kept. */
export async function upload(file: File, kind: "" | "settings" = ""): Promise<string> {
  const name = encodeURIComponent(file.name);
  const sent = await postFile<Schemas["Upload"]>(`/api/uploads?name=${name}${kind && "&settings=true"}`, file);
  return sent.sha256;
}
