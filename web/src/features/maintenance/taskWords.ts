import type { Schemas } from "../../api/client";

type Limits = { hours?: number; filament?: number; prints?: number; days?: number };

/** Limits in words: "300 h or 91 days". */
export function limitWords(l: Limits): string {
  const all = [
    l.hours ? `${l.hours} h` : "",
    l.filament ? `${l.filament} m of filament` : "",
    l.prints ? `${l.prints} prints` : "",
    l.days ? `${l.days} days` : "",
  ].filter(Boolean);
  return all.join(" or ");
}

export function dueWords(t: Schemas["Task"]): string {
  const events = t.after.map((e) => eventWords[e]);
  return [limitWords(t), ...events].filter(Boolean).join("; ");
}

export const eventWords: Record<Schemas["Task"]["after"][number], string> = {
  upgrade: "after an upgrade",
  fault: "after a fault",
  build: "after another build",
};

export function conditionWords(c: Schemas["Condition"]): string {
  if (c.never) return `${c.words}: never`;
  const limits = limitWords(c);
  return `${c.words}: ${[limits, c.times ? `${c.times} times as long` : ""].filter(Boolean).join(", ")}`;
}
