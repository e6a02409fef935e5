import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useParams } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { showDay } from "../../ui/dates";
import { Button } from "../../ui/form";
import { Page } from "../../ui/Page";
import { SubPlaces, storePages } from "../../ui/SubPlaces";
import { Loaded } from "../../ui/states";
import { ArrivalTable } from "./ArrivalTable";
import { EditPurchase } from "./EditPurchase";
import { PurchaseLines } from "./PurchaseLines";
import { OrderState } from "./PurchaseTable";
import { ReceivePanel } from "./ReceivePanel";

export type Expected = { line: Schemas["PurchaseLine"]; kept: number };

/** One order: what of it has come, what is still to come, and a way to receive it. */
export default function PurchasePage() {
  const id = Number(useParams().id);
  const query = useQuery({
    queryKey: keys.purchase(id),
    queryFn: () => unwrap(api.GET("/api/purchases/{id}", { params: { path: { id } } })),
  });
  return (
    <Loaded query={query} what="Reading the order">
      {(order) => <Order order={order} />}
    </Loaded>
  );
}

function Order({ order: p }: { order: Schemas["PurchaseSheet"] }) {
  const [receiving, setReceiving] = useState<Expected>();
  const [editing, setEditing] = useState(false);
  return (
    <Page
      title={`Order of ${p.supplier}`}
      lead={
        <>
          {p.reference && <span className="mr-3 font-mono">{p.reference}</span>}
          ordered {showDay(p.orderedOn)}
          {p.expectedOn && `, expected ${showDay(p.expectedOn)}`}
          {p.note && `: ${p.note}`}
        </>
      }
      actions={<Button onClick={() => setEditing(true)}>Change or close</Button>}
    >
      <SubPlaces label="Stores" pages={storePages} />
      <p className="mb-3 text-lg">
        <OrderState order={p} />
      </p>
      <PurchaseLines order={p} onReceive={(line, kept) => setReceiving({ line, kept })} />
      {p.arrivals.length > 0 && (
        <section aria-labelledby="came" className="mt-8">
          <h2 id="came" className="mb-2 text-xl font-bold">
            What came
          </h2>
          <ArrivalTable arrivals={p.arrivals} />
        </section>
      )}
      {receiving && <ReceivePanel order={p} expected={receiving} onClose={() => setReceiving(undefined)} />}
      {editing && <EditPurchase order={p} onClose={() => setEditing(false)} />}
    </Page>
  );
}
