import { api, type Schemas, unwrap } from "../../api/client";

export const pin = (key: string, account: number, from: string) =>
  unwrap(api.POST("/api/roster/pin", { body: { key, account, from } }));

/** Puts a pinned job back where it stood. A job that was not pinned there is free to be moved again. */
export async function unpin(w: Pick<Schemas["ShownWork"], "key" | "account" | "from" | "pinned">) {
  await pin(w.key, w.account, w.from);
  if (!w.pinned) await unwrap(api.POST("/api/roster/let-go", { body: { key: w.key } }));
}

/** Says what pinning a job did to the others. */
export const pinnedWords = (moved: number) =>
  moved === 0 ? "Pinned there" : `Pinned there; ${moved} other${moved === 1 ? "" : "s"} made room`;
