import { useAddress } from "./useAddress";

/** What narrows a list, kept in the address under its own names. */
export function useInAddress<T extends Record<string, string>>(initial: T): [T, (to: Partial<T>) => void] {
  const [address, setAddress] = useAddress();
  const now = Object.fromEntries(Object.entries(initial).map(([k, v]) => [k, address.get(k) ?? v])) as T;
  function set(to: Partial<T>) {
    setAddress((out) => {
      for (const [k, v] of Object.entries({ ...now, ...to })) {
        if (v === initial[k]) out.delete(k);
        else out.set(k, v);
      }
    });
  }
  return [now, set];
}
