import type { Schemas } from "../../api/client";
import { watched } from "../../api/watched";

/** A step that was ticked or skipped without a connection. */
export type Waiting = {
  step: string;
  title: string;
  do: "tick" | "skip";
  data: Schemas["Data"];
  note: string;
  why?: string;
  at: string;
  /** Of the step as it was when it was done; none in what an earlier version kept. */
  version?: number;
  /** Who did it: nobody else's session sends it. Empty in what an earlier version kept. */
  account?: number;
  by?: string;
};

const place = (order: number) => `wardifex-outbox:${order}`;
const nothing: readonly Waiting[] = [];
const known = watched<Record<number, readonly Waiting[]>>({});

// Another page of this device has sent something, or added it.
addEventListener("storage", () => known.set({}));

/** What waits of an order, in the order in which it is sent. It outlives a reload. */
export function waitingOf(order: number): readonly Waiting[] {
  const kept = known.get();
  kept[order] ??= read(order);
  return kept[order];
}

function read(order: number): readonly Waiting[] {
  try {
    const list = JSON.parse(localStorage.getItem(place(order)) ?? "[]") as Waiting[];
    return list.length > 0 ? list : nothing;
  } catch {
    return nothing;
  }
}

export function setWaiting(order: number, list: readonly Waiting[]) {
  if (list.length > 0) localStorage.setItem(place(order), JSON.stringify(list));
  else localStorage.removeItem(place(order));
  known.set({ ...known.get(), [order]: list.length > 0 ? list : nothing });
}

export const watchOutbox = known.watch;

/** Puts a step behind those that wait already. */
export function addWaiting(order: number, w: Omit<Waiting, "at">) {
  setWaiting(order, [...waitingOf(order), { ...w, at: new Date().toISOString() }]);
}

/** Takes back the last that waits, which is the step's; reports whether it was. */
export function takeBack(order: number, step: string, account: number): boolean {
  const last = waitingOf(order).at(-1);
  if (last?.step !== step || !sentBy(last, account)) return false;
  setWaiting(order, waitingOf(order).slice(0, -1));
  return true;
}

/** Whether something of an account waits. */
export function waits(order: number, account: number): boolean {
  return waitingOf(order).some((w) => sentBy(w, account));
}

/** Whether it is sent in somebody's session. */
export function sentBy(w: Pick<Waiting, "account">, account: number): boolean {
  return w.account === undefined || w.account === account;
}

/** An order as it stands once what waits is sent. */
export function withWaiting(order: Schemas["Order"], list: readonly Waiting[]): Schemas["Order"] {
  if (list.length === 0) return order;
  const stepList = order.stepList.map((s) => {
    const w = list.find((x) => x.step === s.key);
    if (!w || s.doneAt || s.skippedWhy) return s;
    const typed = { ...s, data: w.data, note: w.note, doneBy: w.by ?? "" };
    return w.do === "tick" ? { ...typed, doneAt: w.at } : { ...typed, skippedWhy: w.why ?? "" };
  });
  return { ...order, stepList, done: stepList.filter((s) => s.doneAt || s.skippedWhy).length };
}
