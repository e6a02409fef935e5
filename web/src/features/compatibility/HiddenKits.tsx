import { useQuery } from "@tanstack/react-query";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { Button, Fault } from "../../ui/form";
import { useMayWork } from "../../ui/session";
import { useWrite } from "../../ui/write";

/** The kits that this shop does not look at, to be shown again. */
export function HiddenKits() {
  const mayWork = useMayWork();
  const { write, busy, fault } = useWrite();
  const hidden = useQuery({
    queryKey: keys.kits("hidden"),
    queryFn: () => unwrap(api.GET("/api/kits", { params: { query: { hidden: true } } })),
  });
  if (!hidden.data?.length) return null;
  return (
    <details className="no-print mt-4">
      <summary className="flex min-h-11 cursor-pointer items-center font-semibold">
        Hidden in this shop: {hidden.data.length} {hidden.data.length === 1 ? "kit" : "kits"}
      </summary>
      <ul className="max-w-3xl bg-leaf">
        {hidden.data.map((k) => (
          <li key={k.key} className="flex flex-wrap items-center justify-between gap-4 border-b border-rule px-3 py-1">
            {k.name}
            {mayWork && (
              <Button
                disabled={busy}
                onClick={() =>
                  write(() =>
                    unwrap(
                      api.POST("/api/kits/{key}/hide", { params: { path: { key: k.key } }, body: { hidden: false } }),
                    ),
                  )
                }
              >
                Show again
              </Button>
            )}
          </li>
        ))}
      </ul>
      <Fault text={fault} />
    </details>
  );
}
