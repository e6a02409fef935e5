import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { Button, Check } from "../../ui/form";
import { Page } from "../../ui/Page";
import { SubPlaces, storePages } from "../../ui/SubPlaces";
import { Empty, Loaded } from "../../ui/states";
import { useInAddress } from "../../ui/table/useInAddress";
import { ClaimTable } from "./ClaimTable";
import { NewPurchase } from "./NewPurchase";
import { PurchaseTable } from "./PurchaseTable";

/** What was ordered and is waited for, and what is claimed of suppliers. */
export default function PurchasesPage() {
  const [asked, ask] = useInAddress({ all: "", new: "", what: "", kind: "", count: "" });
  const [adding, setAdding] = useState(asked.new === "1");
  const all = asked.all === "yes";
  const query = useQuery({
    queryKey: keys.purchases(all),
    queryFn: () => unwrap(api.GET("/api/purchases", { params: { query: { all } } })),
    placeholderData: (before) => before,
  });
  return (
    <Page
      title="Orders and deliveries"
      actions={
        <Button main onClick={() => setAdding(true)}>
          New order
        </Button>
      }
    >
      <SubPlaces label="Stores" pages={storePages} />
      <Loaded query={query} what="Reading the orders">
        {(book) => (
          <>
            {book.claims.length > 0 && (
              <section aria-labelledby="claims" className="mb-8">
                <h2 id="claims" className="mb-2 text-xl font-bold">
                  Claimed of suppliers: {book.claims.length}
                </h2>
                <ClaimTable claims={book.claims} />
              </section>
            )}
            <section aria-labelledby="orders">
              <div className="flex flex-wrap items-center gap-x-6">
                <h2 id="orders" className="text-xl font-bold">
                  {all ? "Every order" : "Waited for"}
                </h2>
                <Check
                  label="Show finished orders too"
                  checked={all}
                  onChange={(on) => ask({ all: on ? "yes" : "" })}
                />
              </div>
              {book.orders.length === 0 ? (
                <Empty title="Nothing is waited for.">
                  <p>
                    Pick kits to order under Compatibility and place the order list, or write a new order. A delivery is
                    then received against it.
                  </p>
                </Empty>
              ) : (
                <PurchaseTable orders={book.orders} />
              )}
            </section>
          </>
        )}
      </Loaded>
      {adding && (
        <NewPurchase
          first={asked.what ? { kind: asked.kind, what: asked.what, count: asked.count || "1", price: "" } : undefined}
          onClose={() => {
            setAdding(false);
            ask({ new: "", what: "", kind: "", count: "" });
          }}
        />
      )}
    </Page>
  );
}
