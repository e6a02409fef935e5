/** Files that were sent in from this page, by their number: kept while the page is open, so that a
 * repaired copy can be made of one without choosing it again. */
export const held = new Map<number, File>();

/** A copy of a file with texts put in before the bytes given, whatever its length: pieces of the file
 * are named, not read into memory. A packed file is unpacked first. */
export async function repairedCopy(
  file: File,
  repairs: readonly { at: number; insert: string }[],
): Promise<{ name: string; blob: Blob }> {
  const packed = await isPacked(file);
  const plain = packed ? await new Response(file.stream().pipeThrough(new DecompressionStream("gzip"))).blob() : file;
  const pieces: BlobPart[] = [];
  let at = 0;
  for (const r of repairs) {
    pieces.push(plain.slice(at, r.at), r.insert);
    at = r.at;
  }
  pieces.push(plain.slice(at));
  const name = file.name.replace(/\.gz$/i, "").replace(/(\.[^.]*)?$/, (end) => `-repaired${end}`);
  return { name, blob: new Blob(pieces, { type: "application/octet-stream" }) };
}

async function isPacked(file: File): Promise<boolean> {
  const head = new Uint8Array(await file.slice(0, 2).arrayBuffer());
  return head[0] === 0x1f && head[1] === 0x8b;
}

/** Hands a file out to be saved. */
export function save(name: string, blob: Blob) {
  const url = URL.createObjectURL(blob);
  const link = document.createElement("a");
  link.href = url;
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(url), 60_000);
}
