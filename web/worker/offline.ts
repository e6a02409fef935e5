/// <reference lib="webworker" />

// The service worker: a work order that is open on this device goes on without a connection,
// over a reload too. It is installed when the first open order is shown. The network always
// comes first; what it does not answer is answered as it was last seen.

const worker = globalThis as unknown as ServiceWorkerGlobalScope;

/** The pages' own files, and what the API last answered of the work at hand. */
const FILES = "wardifex-files";
const ANSWERS = "wardifex-answers";

/** How long the network may think, ms: on a bad connection the work goes on. */
const PATIENCE = 8_000;

/** What is answered without a connection too. */
const kept = /^\/api\/(session|bench|builds|work\/\d+)$/;

/** A tick's answer is the order as it then stands. */
const step = /^(\/api\/work\/\d+)\/steps\/[^/]+$/;

worker.addEventListener("install", () => worker.skipWaiting());
worker.addEventListener("activate", (e) => e.waitUntil(worker.clients.claim()));

/** A page names the files that it is made of, and what it asked the API. */
worker.addEventListener("message", (e) => {
  const { files, answers } = e.data as { files: string[]; answers: string[] };
  e.waitUntil(Promise.all([keepFiles(files), ...answers.map(async (a) => put(ANSWERS, a, await fetch(a)))]));
});

worker.addEventListener("fetch", (e) => {
  const { request } = e;
  const url = new URL(request.url);
  if (url.origin !== worker.location.origin) return;
  const order = request.method === "POST" ? step.exec(url.pathname)?.[1] : undefined;
  if (request.method === "DELETE" && url.pathname === "/api/session") e.respondWith(signOut(request));
  else if (order) e.respondWith(fetch(request).then((answer) => put(ANSWERS, order, answer)));
  else if (request.method !== "GET") return;
  else if (url.pathname.startsWith("/assets/")) e.respondWith(file(request));
  else if (request.mode === "navigate") e.respondWith(networkFirst(request, FILES, "/"));
  else if (kept.test(url.pathname)) e.respondWith(networkFirst(request, ANSWERS, url.pathname));
});

async function file(request: Request): Promise<Response> {
  return (await caches.match(request, { cacheName: FILES })) ?? fetch(request);
}

/** Who signs out leaves nothing on the device of what they saw. */
async function signOut(request: Request): Promise<Response> {
  const answer = await fetch(request);
  if (answer.ok) await caches.delete(ANSWERS);
  return answer;
}

async function networkFirst(request: Request, cache: string, place: string): Promise<Response> {
  try {
    return await put(cache, place, await fetch(request, { signal: AbortSignal.timeout(PATIENCE) }));
  } catch (error) {
    const last = await (await caches.open(cache)).match(place);
    if (!last) throw error;
    const headers = new Headers(last.headers);
    headers.set("Wardifex-Kept", "yes"); // by which the page says that there is no connection
    return new Response(last.body, { status: last.status, headers });
  }
}

async function put(cache: string, place: string, answer: Response): Promise<Response> {
  if (answer.ok && place === "/api/session" && !(await answer.clone().json()).signedIn) await caches.delete(cache);
  else if (answer.ok) await (await caches.open(cache)).put(place, answer.clone());
  return answer;
}

/** Keeps files of the pages, and forgets those of an older build that they take the place of. */
async function keepFiles(paths: readonly string[]) {
  const cache = await caches.open(FILES);
  const names = new Set(paths.map(nameOf));
  for (const old of await cache.keys()) {
    const { pathname } = new URL(old.url);
    if (pathname !== "/" && names.has(nameOf(pathname)) && !paths.includes(pathname)) await cache.delete(old);
  }
  for (const path of [...paths, "/"]) if (!(await cache.match(path))) await cache.add(path);
}

/** A file's name without what tells its builds apart: "/assets/OrderPage-Nf_g-DN2.js" is OrderPage.js. */
function nameOf(path: string): string {
  return path.replace(/^\/assets\//, "").replace(/-[\w-]{8}(\.\w+)$/, "$1");
}
