import type { Schemas } from "../../api/client";

/** A step that was ticked or skipped without a connection. */
export type Waiting = {
  step: string;
  title: string;
  do: "tick" | "skip";
  data: Schemas["Data"];
  note: string;
  why?: string;
  at: string;
};

const place = (order: number) => `wardifex-outbox:${order}`;
const nothing: readonly Waiting[] = [];
const known = new Map<number, readonly Waiting[]>();
const watchers = new Set<() => void>();

/** What waits of an order, in the order in which it is sent. It outlives a reload. */
export function waitingOf(order: number): readonly Waiting[] {
  let list = known.get(order);
  if (!list) {
    try {
      list = JSON.parse(localStorage.getItem(place(order)) ?? "[]") as Waiting[];
    } catch {
      list = nothing;
    }
    known.set(order, list.length > 0 ? list : nothing);
  }
  return known.get(order) ?? nothing;
}

export function setWaiting(order: number, list: readonly Waiting[]) {
  known.set(order, list.length > 0 ? list : nothing);
  if (list.length > 0) localStorage.setItem(place(order), JSON.stringify(list));
  else localStorage.removeItem(place(order));
  for (const changed of watchers) changed();
}

export function watchOutbox(changed: () => void) {
  watchers.add(changed);
  return () => {
    watchers.delete(changed);
  };
}

/** An order as it stands once what waits is sent. */
export function withWaiting(order: Schemas["Order"], list: readonly Waiting[], by: string): Schemas["Order"] {
  if (list.length === 0) return order;
  const stepList = order.stepList.map((s) => {
    const w = list.find((x) => x.step === s.key);
    if (!w || s.doneAt || s.skippedWhy) return s;
    const typed = { ...s, data: w.data, note: w.note, doneBy: by };
    return w.do === "tick" ? { ...typed, doneAt: w.at } : { ...typed, skippedWhy: w.why ?? "" };
  });
  return { ...order, stepList, done: stepList.filter((s) => s.doneAt || s.skippedWhy).length };
}
