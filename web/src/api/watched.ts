/** A value that pages show and that is set from outside them. */
export function watched<T>(first: T) {
  let now = first;
  const watchers = new Set<() => void>();
  return {
    get: () => now,
    set(next: T) {
      if (next === now) return;
      now = next;
      for (const changed of watchers) changed();
    },
    watch(changed: () => void) {
      watchers.add(changed);
      return () => {
        watchers.delete(changed);
      };
    },
  };
}
