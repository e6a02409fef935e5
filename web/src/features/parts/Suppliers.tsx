import { useQuery } from "@tanstack/react-query";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { useMayWork } from "../../ui/session";
import { Loaded } from "../../ui/states";

/** Suppliers by how often their claims failed. */
export function Suppliers() {
  const mayWork = useMayWork();
  const query = useQuery({
    queryKey: keys.suppliers(),
    queryFn: () => unwrap(api.GET("/api/suppliers")),
    enabled: mayWork,
  });
  if (!mayWork) return null;
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
