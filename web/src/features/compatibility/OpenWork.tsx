import { useState } from "react";
import { Link, useNavigate } from "react-router";
import type { Schemas } from "../../api/client";
import { Button, Fault, Select } from "../../ui/form";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";

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
  const go = useNavigate();
  const [reason, setReason] = useState("");
  const { write, busy, fault } = useWrite();
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
    <form
      className="border-2 border-accent bg-leaf px-4 py-4"
      onSubmit={(e) => {
        e.preventDefault();
        write(
          () => open(reason),
          (made) => {
            toast(`Work order ${made.id} is open; ${machine} is locked out`);
            go(`/work/${made.id}`);
          },
        );
      }}
    >
      <label htmlFor="reason" className="text-xl font-bold">
        Why touch it?
      </label>
      <p className="mb-2 text-dim">
        A machine that works is left alone. "It is old" is no reason; without one, leave it alone.
      </p>
      <Select id="reason" value={reason} onChange={setReason} options={reasons} empty="Choose the reason" />
      <Fault text={fault} />
      <Button type="submit" main className="mt-3 w-full" disabled={busy || !reason}>
        {button}
      </Button>
      <p className="mt-2 text-sm text-dim">The machine is locked out until it is finished.</p>
    </form>
  );
}
