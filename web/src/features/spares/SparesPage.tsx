import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { State } from "../../ui/badges";
import { showDay } from "../../ui/dates";
import { Button, Fault } from "../../ui/form";
import { NumberField, TextField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { LinkButton } from "../../ui/LinkButton";
import { Page } from "../../ui/Page";
import { Panel } from "../../ui/Panel";
import { SubPlaces, storePages } from "../../ui/SubPlaces";
import { Empty, Loaded } from "../../ui/states";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";

type Row = Schemas["SpareRow"];

/** Spare parts: on the shelf, reserved by the plan, on order, and what is short. */
export default function SparesPage() {
  const [editing, setEditing] = useState<Row | "new">();
  const query = useQuery({ queryKey: keys.spares(), queryFn: () => unwrap(api.GET("/api/spares")) });
  const short = query.data?.filter((r) => r.short > 0) ?? [];
  return (
    <Page
      title="Spare parts"
      lead={short.length > 0 ? `${short.length} ${short.length === 1 ? "model is" : "models are"} short` : undefined}
      actions={
        <>
          <Button onClick={() => setEditing("new")}>Keep a minimum</Button>
          <LinkButton to="/purchases">Orders and deliveries</LinkButton>
        </>
      }
    >
      <SubPlaces label="Stores" pages={storePages} />
      <Loaded query={query} what="Counting the shelf">
        {(rows) =>
          rows.length === 0 ? (
            <Empty title="No spare part is on record.">
              Put parts on the shelf, or say which the shelf should hold.
            </Empty>
          ) : (
            <div className="relative overflow-x-auto bg-leaf">
              <table className="w-full">
                <thead>
                  <tr className="border-b-2 border-line text-left align-bottom">
                    <th className="px-3 py-1">Model</th>
                    <th className="px-3 py-1 text-right">Shelf</th>
                    <th className="px-3 py-1">Lots</th>
                    <th className="px-3 py-1 text-right">Reserved</th>
                    <th className="px-3 py-1 text-right">On order</th>
                    <th className="px-3 py-1 text-right">At least</th>
                    <th className="px-3 py-1">To order</th>
                    <th className="px-3 py-1">
                      <span className="sr-only">Change</span>
                    </th>
                  </tr>
                </thead>
                <tbody>
                  {rows.map((r) => (
                    <Line key={r.model} row={r} onEdit={() => setEditing(r)} />
                  ))}
                </tbody>
              </table>
            </div>
          )
        }
      </Loaded>
      {editing && <Minimum row={editing} onClose={() => setEditing(undefined)} />}
    </Page>
  );
}

function Line({ row: r, onEdit }: { row: Row; onEdit: () => void }) {
  const { write, busy, fault } = useWrite();
  return (
    <tr className="border-b border-rule">
      <th scope="row" className="px-3 py-1 text-left">
        {r.model} <span className="font-normal text-dim">{r.kind}</span>
      </th>
      <td className="px-3 py-1 text-right">{r.shelf}</td>
      <td className="px-3 py-1 text-sm">
        {r.lots
          .map((l) => `${l.count} × ${[l.lot && `lot ${l.lot}`, l.shelf].filter(Boolean).join(", ") || "no lot"}`)
          .join("; ")}
      </td>
      <td className="px-3 py-1 text-right" title={r.reservedFor.join(", ")}>
        {r.reserved || ""}
      </td>
      <td className="px-3 py-1 text-right">
        {r.onOrder || ""}
        {r.onOrder > 0 && (
          <span className="block text-sm text-dim">{r.expected ? showDay(r.expected) : "no day known"}</span>
        )}
      </td>
      <td className="px-3 py-1 text-right">{r.least || ""}</td>
      <td className="px-3 py-1">
        {r.short > 0 && (
          <span className="flex flex-wrap items-center gap-2">
            <State tone="look">{r.short} short</State>
            <Link
              className="inline-flex min-h-10 items-center underline underline-offset-4"
              to={`/purchases?new=1&what=${encodeURIComponent(r.model)}&kind=${encodeURIComponent(r.kind)}&count=${r.short}`}
            >
              Order {r.short}
            </Link>
          </span>
        )}
      </td>
      <td className="px-3 py-1">
        <Button className="compact:min-h-8" onClick={onEdit} aria-label={`Minimum of ${r.model}`}>
          Minimum …
        </Button>
        {r.least > 0 && (
          <Button
            className="compact:min-h-8"
            disabled={busy}
            aria-label={`Keep no minimum of ${r.model}`}
            onClick={() => write(() => unwrap(api.PUT("/api/spares/level", { body: { model: r.model, least: 0 } })))}
          >
            ×
          </Button>
        )}
        <Fault text={fault} />
      </td>
    </tr>
  );
}

function Minimum({ row, onClose }: { row: Row | "new"; onClose: () => void }) {
  const is = row === "new" ? undefined : row;
  const form = useKeptForm<{ model: string; least?: number }>(`minimum-${is?.model ?? ""}`, {
    model: is?.model ?? "",
    least: is?.least || 1,
  });
  return (
    <Panel open onOpenChange={onClose} title={is ? `Minimum of ${is.model}` : "Keep a minimum"}>
      <SendForm
        form={form}
        send={({ model, least = 0 }) => unwrap(api.PUT("/api/spares/level", { body: { model, least } }))}
        onSent={() => {
          toast("Saved");
          onClose();
        }}
        button="Save"
      >
        {!is && (
          <TextField control={form.control} name="model" label="Model, as the record has it" required maxLength={120} />
        )}
        <NumberField control={form.control} name="least" label="Pieces that the shelf should hold at least" />
      </SendForm>
    </Panel>
  );
}
