import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { Link } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { GradeMark } from "../../ui/badges";
import { useDraft } from "../../ui/draft";
import { Button, Select, TextInput } from "../../ui/form";
import { LinkButton } from "../../ui/LinkButton";
import { showMoney } from "../../ui/money";
import { Page } from "../../ui/Page";
import { More, PAGE, usePages } from "../../ui/pages";
import { SubPlaces, storePages } from "../../ui/SubPlaces";
import { useMayWork } from "../../ui/session";
import { Empty, Loaded } from "../../ui/states";
import { AddPart } from "./AddPart";
import { placeOf } from "./place";

/** Every part and where it is; suppliers by how often their claims failed. */
export default function PartsPage() {
  const mayWork = useMayWork();
  const [adding, setAdding] = useState(false);
  const catalogue = useQuery({ queryKey: ["catalogue"], queryFn: () => unwrap(api.GET("/api/catalogue")) });
  return (
    <Page
      title="Parts"
      lead="In machines, on the shelf, scrapped; with how reliable suppliers are."
      actions={
        <>
          <LinkButton to="/builds">Firmware builds</LinkButton>
          <LinkButton to="/labels?parts=1">Labels</LinkButton>
          {mayWork && (
            <Button main onClick={() => setAdding(true)}>
              Add a part to the shelf
            </Button>
          )}
        </>
      }
    >
      <SubPlaces label="Stores" pages={storePages} />
      <Loaded query={catalogue} what="Reading the catalogue">
        {(c) => <Book kinds={c.catalogue.kinds} />}
      </Loaded>
      <Suppliers />
      {adding && catalogue.data && <AddPart catalogue={catalogue.data.catalogue} onClose={() => setAdding(false)} />}
    </Page>
  );
}

function Book({ kinds }: { kinds: readonly Schemas["PartKind"][] }) {
  const [view, setView] = useDraft("parts", { where: "shelf", kind: "", text: "" });
  const label = new Map(kinds.map((k) => [k.key, k.label]));
  const text = useDeferredValue(view.text.trim());
  const where = view.where === "all" ? undefined : (view.where as "shelf" | "machine" | "scrap");
  const {
    query,
    first,
    rows: kept,
  } = usePages(
    ["parts", where, view.kind, text],
    (offset) =>
      unwrap(api.GET("/api/parts", { params: { query: { where, kind: view.kind, text, limit: PAGE, offset } } })),
    (page) => page.parts,
    (page) => page.total,
  );
  const count = (of: "shelf" | "machine" | "scrap") => first?.counts[of] ?? 0;
  return (
    <section aria-label="Parts">
      <div className="no-print mb-4 flex flex-wrap gap-3">
        <TextInput
          aria-label="Search the parts"
          className="max-w-64"
          placeholder="Model, tag, serial"
          value={view.text}
          onChange={(text) => setView({ ...view, text })}
        />
        <Select
          aria-label="Where"
          className="max-w-56"
          value={view.where}
          onChange={(where) => setView({ ...view, where })}
          options={[
            ["shelf", `On the shelf (${count("shelf")})`],
            ["machine", `In machines (${count("machine")})`],
            ["scrap", `Scrapped (${count("scrap")})`],
            ["all", `All (${count("shelf") + count("machine") + count("scrap")})`],
          ]}
        />
        <Select
          aria-label="Kind"
          className="max-w-56"
          value={view.kind}
          onChange={(kind) => setView({ ...view, kind })}
          empty="Every kind"
          options={kinds.map((k) => [k.key, k.label] as const)}
        />
      </div>
      {!first ? (
        <Loaded query={query} what="Reading the parts">
          {() => null}
        </Loaded>
      ) : kept.length === 0 ? (
        <Empty title="No part is like that." />
      ) : (
        <div className="relative overflow-x-auto bg-leaf">
          <table className="w-full border-collapse text-left">
            <thead className="border-b-2 border-line bg-wall">
              <tr>
                {["Part", "Tag", "Where", "Supplier", "Price"].map((h) => (
                  <th key={h} scope="col" className="px-3 py-2">
                    {h}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {kept.map((p) => (
                <tr key={p.id} className="border-b border-rule align-top hover:bg-wash">
                  <th scope="row" className="p-0 font-normal">
                    <Link to={`/part/${p.id}`} className="block min-h-12 px-3 py-1.5">
                      <b>{p.model || "unnamed"}</b> <GradeMark grade={p.grade} word={false} />
                      <span className="block text-sm text-dim">{label.get(p.kind) ?? p.kind}</span>
                    </Link>
                  </th>
                  <td className="px-3 py-1.5 font-mono">
                    {p.tag}
                    <span className="block text-sm text-dim">{p.serial}</span>
                  </td>
                  <td className="px-3 py-1.5">{placeOf(p).words}</td>
                  <td className="px-3 py-1.5">{p.supplier}</td>
                  <td className="px-3 py-1.5 text-right font-mono">{showMoney(p.price)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      <More query={query} shown={kept.length} found={first?.total ?? 0} what="parts" />
    </section>
  );
}

function Suppliers() {
  const query = useQuery({ queryKey: ["suppliers"], queryFn: () => unwrap(api.GET("/api/suppliers")) });
  return (
    <section aria-labelledby="suppliers" className="mt-10 max-w-4xl">
      <h2 id="suppliers" className="text-2xl font-bold">
        Supplier reliability
      </h2>
      <p className="mb-2 text-dim">
        Claims of which something stronger than a claim is known. The bar is where the true share may lie, at 95 %
        (Wilson's interval): few checks leave it wide.
      </p>
      <Loaded query={query} what="Comparing suppliers">
        {(list) =>
          list.length === 0 ? (
            <p>No claims are on record.</p>
          ) : (
            <div className="relative overflow-x-auto">
              <table className="w-full border-collapse bg-leaf text-left">
                <thead className="border-b-2 border-line bg-wall">
                  <tr>
                    {["Supplier", "Claims", "Checked", "False", "Share that is false"].map((h) => (
                      <th key={h} scope="col" className="px-3 py-2">
                        {h}
                      </th>
                    ))}
                  </tr>
                </thead>
                <tbody>
                  {list.map((s) => (
                    <tr key={s.supplier} className="border-b border-rule">
                      <th scope="row" className="px-3 py-2">
                        {s.supplier}
                      </th>
                      <td className="px-3 py-2">{s.claims}</td>
                      <td className="px-3 py-2">{s.checked}</td>
                      <td className="px-3 py-2 font-semibold">{s.false}</td>
                      <td className="px-3 py-2">
                        {s.checked === 0 ? (
                          <span className="text-dim">nothing checked yet</span>
                        ) : (
                          <span className="flex items-center gap-3">
                            <svg width="200" height="16" viewBox="0 0 200 16" aria-hidden="true">
                              <path d="M0 8h200" stroke="currentColor" strokeWidth="1" className="text-line" />
                              <rect
                                x={s.low * 200}
                                y="3"
                                width={Math.max(2, (s.high - s.low) * 200)}
                                height="10"
                                className="fill-dim"
                              />
                              <rect
                                x={(s.false / s.checked) * 200 - 1.5}
                                y="0"
                                width="3"
                                height="16"
                                className="fill-ink"
                              />
                            </svg>
                            {Math.round((100 * s.false) / s.checked)} % ({Math.round(100 * s.low)} to{" "}
                            {Math.round(100 * s.high)} %)
                          </span>
                        )}
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </div>
          )
        }
      </Loaded>
    </section>
  );
}
