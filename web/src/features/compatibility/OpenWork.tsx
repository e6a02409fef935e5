import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { SelectField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { useGo } from "../../ui/go";
import { toast } from "../../ui/toast";

/** A machine is touched for a reason on record; then it is locked out. */
export function OpenWork({
  machine,
  openOrder,
  reasons,
  button,
  open,
}: {
  machine: string;
  openOrder?: Schemas["OrderHead"];
  reasons: readonly string[];
  button: string;
  open: (reason: string) => Promise<Schemas["Created"]>;
}) {
  const go = useGo();
  const form = useKeptForm(`open-work-${machine}`, { reason: "" });
  if (openOrder)
    return (
      <p className="border-l-4 border-look bg-look-wash px-4 py-3">
        The machine is locked out:{" "}
        <Link className="font-semibold underline underline-offset-4" to={`/work/${openOrder.id}`}>
          work order {openOrder.id}
        </Link>{" "}
        is open.
      </p>
    );
  return (
    <SendForm
      form={form}
      className="space-y-3 border-2 border-accent bg-leaf px-4 py-4"
      send={({ reason }) => open(reason)}
      onSent={(made) => {
        toast(`Work order ${made.id} is open; ${machine} is locked out`);
        go(`/work/${made.id}`);
      }}
      button={button}
      disabled={!form.watch("reason")}
    >
      <SelectField
        control={form.control}
        name="reason"
        label="Why touch it?"
        options={reasons}
        empty="Choose the reason"
        hint={
          'A machine that works is left alone. "It is old" is no reason; without one, leave it alone. The machine ' +
          "is locked out until the order is finished."
        }
      />
    </SendForm>
  );
}
