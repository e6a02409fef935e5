import type { Arrangement } from "./column";
import { useAddress } from "./useAddress";

/** How a table is arranged, kept in the address: sort=-when, group=task, only.bay=Quay. A page
 * with several tables names each. */
export function useArrangement(
  initial: Partial<Arrangement> = {},
  name = "",
): [Arrangement, (to: Partial<Arrangement>) => void] {
  const [address, setAddress] = useAddress();
  const key = (what: string) => (name ? `${name}.${what}` : what);
  const sort = address.get(key("sort")) ?? `${initial.down ? "-" : ""}${initial.sort ?? ""}`;
  const only: Record<string, string> = { ...initial.only };
  for (const [k, v] of address) if (k.startsWith(key("only."))) only[k.slice(key("only.").length)] = v;
  const now: Arrangement = {
    sort: sort.replace(/^-/, ""),
    down: sort.startsWith("-"),
    group: address.get(key("group")) ?? initial.group ?? "",
    only,
  };
  function arrange(to: Partial<Arrangement>) {
    const next = { ...now, ...to };
    setAddress((out) => {
      for (const k of [...out.keys()]) if (k.startsWith(key("only."))) out.delete(k);
      out.set(key("sort"), (next.down ? "-" : "") + next.sort);
      out.set(key("group"), next.group);
      for (const [k, v] of Object.entries(next.only)) if (v || initial.only?.[k]) out.set(key(`only.${k}`), v);
      if (next.sort === (initial.sort ?? "") && next.down === (initial.down ?? false)) out.delete(key("sort"));
      if (next.group === (initial.group ?? "")) out.delete(key("group"));
    });
  }
  return [now, arrange];
}
