import { away } from "./away";
import { answerHere } from "./benchHere";

/** Addresses that were written to, until what they touch is fetched anew. */
const written = new Set<string>();

export function takeWritten(): readonly string[] {
  const paths = [...written];
  written.clear();
  return paths;
}

/**
 * Sends a request; a write gets a key that is the same when the same is sent again before
 * it was answered, over a reload too: the server writes it once.
 */
export async function send(request: Request): Promise<Response> {
  const { pathname } = new URL(request.url);
  if (pathname.startsWith("/api/bench")) return sum(request, pathname);
  // A file that is sent in is kept by what is in it: sent twice, it is there once.
  if (request.method === "GET" || pathname === "/api/uploads") return ask(request);
  const place = `wardifex-write:${print(`${request.method} ${request.url} ${await contents(request)}`)}`;
  const key = request.headers.get("Idempotency-Key") ?? sessionStorage.getItem(place) ?? newKey();
  keep(place, key);
  request.headers.set("Idempotency-Key", key);
  const response = await ask(request);
  if (response.status < 500) sessionStorage.removeItem(place); // it is known what became of it
  if (response.ok) written.add(pathname);
  return response;
}

/** Asks the server, and notes whether it answers. */
async function ask(request: Request): Promise<Response> {
  try {
    const response = await fetch(request);
    away.set(response.headers.has("Wardifex-Kept"));
    return response;
  } catch (error) {
    away.set(true);
    throw error;
  }
}

/** A sum is done by the server, or without it on this device. */
async function sum(request: Request, pathname: string): Promise<Response> {
  const body = request.method === "GET" ? "" : await request.clone().text();
  try {
    return await ask(request);
  } catch (error) {
    const here = await answerHere(pathname, body).catch(() => undefined);
    if (here) return here;
    throw error;
  }
}

/** The body as text; of a picture its size and first bytes tell enough. */
async function contents(request: Request): Promise<string> {
  const body = await request.clone().arrayBuffer();
  return `${body.byteLength} ${new TextDecoder("latin1").decode(body.slice(0, 1 << 20))}`;
}

function keep(place: string, key: string) {
  try {
    sessionStorage.setItem(place, key);
  } catch {
    // Nothing more can be kept over a reload; until then the answer is waited for.
  }
}

/** A key by which the server knows a write again. */
export function newKey(): string {
  return Array.from(crypto.getRandomValues(new Uint8Array(16)), (b) => b.toString(16).padStart(2, "0")).join("");
}

/** A short print of a text (FNV-1a, twice, from both ends). */
function print(text: string): string {
  let a = 0x811c9dc5;
  let b = 0x811c9dc5;
  for (let i = 0; i < text.length; i++) {
    a = Math.imul(a ^ text.charCodeAt(i), 0x01000193);
    b = Math.imul(b ^ text.charCodeAt(text.length - 1 - i), 0x01000193);
  }
  return (a >>> 0).toString(16) + (b >>> 0).toString(16);
}
