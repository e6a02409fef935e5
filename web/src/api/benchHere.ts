import wasm from "../../bench/bench.wasm?url";
import runtime from "../../bench/wasm_exec.js?url";

declare global {
  /** Set by the bench once it runs; see cmd/benchwasm. */
  var wardifexBench: ((name: string, body: string) => { status: number; body: string }) | undefined;
  /** Go's own runtime for the browser. */
  var Go: new () => { importObject: WebAssembly.Imports; run(instance: WebAssembly.Instance): Promise<void> };
}

let loading: Promise<void> | undefined;

/** Loads the bench into this page, once. */
export function loadBench(): Promise<void> {
  loading ??= load().catch((error) => {
    loading = undefined; // the next who needs it tries again
    throw error;
  });
  return loading;
}

async function load() {
  await import(/* @vite-ignore */ runtime);
  const go = new Go();
  const { instance } = await WebAssembly.instantiateStreaming(fetch(wasm), go.importObject);
  go.run(instance); // runs for as long as the page is open
}

/** Answers a sum on this device as the server would, by the same code. */
export async function answerHere(path: string, body: string): Promise<Response | undefined> {
  const name = /^\/api\/bench\/?(.*)$/.exec(path)?.[1];
  if (name === undefined) return undefined;
  await loadBench();
  const answer = globalThis.wardifexBench?.(name, body);
  if (!answer) return undefined;
  return new Response(answer.body, {
    status: answer.status,
    headers: { "Content-Type": answer.status === 200 ? "application/json" : "application/problem+json" },
  });
}
