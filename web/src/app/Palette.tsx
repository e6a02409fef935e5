import { useQuery } from "@tanstack/react-query";
import { Command } from "cmdk";
import { Dialog } from "radix-ui";
import { useNavigate } from "react-router";
import { api, unwrap } from "../api/client";
import { keys } from "../api/keys";
import { useMayWork } from "../ui/session";
import type { Place } from "./navigation";

const item =
  "flex min-h-11 cursor-pointer items-center justify-between gap-4 px-4 data-[selected=true]:bg-accent data-[selected=true]:text-on-accent";

export function Palette({
  open,
  onOpenChange,
  places,
}: {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  places: readonly Place[];
}) {
  const go = useNavigate();
  const mayWork = useMayWork();
  const fleet = useQuery({ queryKey: keys.fleet(), queryFn: () => unwrap(api.GET("/api/machines")), enabled: open });
  const kits = useQuery({
    queryKey: keys.kits(),
    queryFn: () => unwrap(api.GET("/api/kits")),
    enabled: open && mayWork,
  });
  const orders = useQuery({
    queryKey: keys.orders(),
    queryFn: () => unwrap(api.GET("/api/work")),
    enabled: open && mayWork,
  });
  function to(path: string) {
    onOpenChange(false);
    go(path);
  }
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/50" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-[12vh] left-1/2 z-50 w-[min(36rem,94vw)] -translate-x-1/2 border-2 border-accent bg-leaf shadow-xl"
        >
          <Dialog.Title className="sr-only">Go to</Dialog.Title>
          <Command label="Go to">
            <Command.Input
              autoFocus
              placeholder="Machine, kit, order or place"
              className="w-full border-b border-line bg-transparent px-4 py-3 text-xl outline-none placeholder:text-dim"
            />
            <Command.List className="max-h-[55vh] overflow-auto py-2">
              <Command.Empty className="px-4 py-6 text-dim">Nothing by that name.</Command.Empty>
              {places.map((p) => (
                <Command.Item key={p.path} className={item} onSelect={() => to(p.path)}>
                  {p.label} <span className="text-sm opacity-80">{p.hint}</span>
                </Command.Item>
              ))}
              {mayWork &&
                [
                  ["/machine/new", "New machine"],
                  ["/identify", "Inspect"],
                  ["/due", "Maintenance"],
                  ["/catalogue", "Catalogue"],
                  ["/import", "Import"],
                ].map(([path = "", label]) => (
                  <Command.Item key={path} className={item} onSelect={() => to(path)}>
                    {label}
                  </Command.Item>
                ))}
              {fleet.data?.machines.map((m) => (
                <Command.Item
                  key={`m${m.id}`}
                  value={`machine ${m.name} ${m.bay} ${m.id}`}
                  className={item}
                  onSelect={() => to(`/machine/${m.id}`)}
                >
                  {m.name} <span className="text-sm opacity-80">{m.bay}</span>
                </Command.Item>
              ))}
              {kits.data?.map((k) => (
                <Command.Item key={k.key} value={`kit ${k.name}`} className={item} onSelect={() => to(`/ask/${k.key}`)}>
                  {k.name} <span className="text-sm opacity-80">does it fit?</span>
                </Command.Item>
              ))}
              {orders.data?.rows.map((o) => (
                <Command.Item
                  key={`o${o.id}`}
                  value={`order ${o.id} ${o.machine} ${o.kit}`}
                  className={item}
                  onSelect={() => to(`/work/${o.id}`)}
                >
                  {o.id}: {o.kit} on {o.machine} <span className="text-sm opacity-80">{o.state}</span>
                </Command.Item>
              ))}
            </Command.List>
          </Command>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
