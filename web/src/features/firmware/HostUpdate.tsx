import { api, unwrap } from "../../api/client";
import { TextField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { useGo } from "../../ui/go";

/** Opens a work order for an update of the host: its steps in their order, ending with paper. */
export function HostUpdate({ id }: { id: number }) {
  const go = useGo();
  const form = useKeptForm(`host-update-${id}`, { reason: "" });
  return (
    <SendForm
      form={form}
      className="mb-4 space-y-3"
      send={(body) => unwrap(api.POST("/api/machines/{id}/host-update", { params: { path: { id } }, body }))}
      onSent={(made) => go(`/work/${made.id}`)}
      button="Open an order for a host update"
    >
      <TextField
        control={form.control}
        name="reason"
        label="Why the host is updated"
        hint="A host that works is left alone. The order: backup, password, host, API server, web page, add-ons, messages, paper."
        required
        maxLength={300}
      />
    </SendForm>
  );
}
