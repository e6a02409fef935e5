import { api, unwrap } from "../../api/client";
import { Button, Fault } from "../../ui/form";
import { useGo } from "../../ui/go";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";

/** Takes a kit that this shop will never fit out of its lists; it can be shown again below the matrix. */
export function HideKit({ kit, name }: { kit: string; name: string }) {
  const go = useGo();
  const { write, busy, fault } = useWrite();
  const hide = (hidden: boolean) =>
    unwrap(api.POST("/api/kits/{key}/hide", { params: { path: { key: kit } }, body: { hidden } }));
  return (
    <>
      <Button
        disabled={busy}
        onClick={() =>
          write(
            () => hide(true),
            () => {
              toast(`${name} is hidden in this shop`, () => write(() => hide(false)));
              go("/ask");
            },
          )
        }
      >
        Hide in this shop
      </Button>
      <Fault text={fault} />
    </>
  );
}
