/** Whether the server answered last, for those who show it. */
let away = false;
const watchers = new Set<() => void>();

export function isAway(): boolean {
  return away;
}

export function setAway(now: boolean) {
  if (away === now) return;
  away = now;
  for (const changed of watchers) changed();
}

export function watchAway(changed: () => void) {
  watchers.add(changed);
  return () => {
    watchers.delete(changed);
  };
}
