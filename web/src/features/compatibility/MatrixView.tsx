import { useDeferredValue, useState } from "react";
import { Link, useSearchParams } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { VerdictMark } from "../../ui/badges";
import { useDraft } from "../../ui/draft";
import { Button, Check } from "../../ui/form";
import { More, PAGE, usePages } from "../../ui/pages";
import { Loaded } from "../../ui/states";
import { useInAddress } from "../../ui/table/useInAddress";
import { everything, MatrixBar } from "./MatrixBar";
import { MatrixTable } from "./MatrixTable";
import { OrderPanel } from "./OrderPanel";

type Mark = Schemas["Counted"];

/** More columns than these nobody reads, and no browser draws at once. */
const mostColumns = 60;

/** Machines by kits: four marks told apart by their shape, each a way to its reasons. */
export function MatrixView({ kits }: { kits: readonly Schemas["Kit"][] }) {
  const [asked, ask] = useInAddress(everything);
  const [{ picks }, setPicks] = useDraft("matrix", { picks: [] as string[] });
  const [picking, setPicking] = useState(false);
  const [ordering, setOrdering] = useState(false);
  const [answer = "", lean = ""] = asked.answer.split("/") as [Mark["answer"] | "", Mark["lean"]];
  const [address] = useSearchParams();
  const machine = address.getAll("machine").map(Number);
  const question = {
    machine,
    what: asked.what,
    name: useDeferredValue(asked.name),
    sort: asked.sort as "kind" | "fits" | "leans",
    kits: mostColumns,
    bay: asked.bay,
    answer,
    lean,
  };
  const {
    query,
    first: m,
    rows,
  } = usePages(
    keys.matrix(question),
    (offset) => unwrap(api.GET("/api/matrix", { params: { query: { ...question, offset, limit: PAGE } } })),
    (page) => page.machines,
    (page) => page.machinesFound,
    (page) => page.judged < page.allMachines,
  );
  if (!m)
    return (
      <Loaded query={query} what="Judging every kit on every machine">
        {() => null}
      </Loaded>
    );
  const columns = m.kits;
  return (
    <>
      <MatrixBar kits={kits} matrix={m} asked={asked} onAsk={ask}>
        <Check label="Pick kits to order" checked={picking} onChange={setPicking} />
        {picks.length > 0 && (
          <Button main onClick={() => setOrdering(true)}>
            Order list: {picks.length}
          </Button>
        )}
      </MatrixBar>
      {m.broken.length > 0 && (
        <p className="mb-3 border-l-4 border-bad bg-bad-wash px-4 py-2">
          Not judged: {m.broken.join("; ")}. The others are judged all the same.
        </p>
      )}
      {m.kitsFound > columns.length && (
        <p className="mb-3 border-l-4 border-look bg-look-wash px-4 py-2">
          {columns.length} of {m.kitsFound} kits are shown: narrow them by kind or name. The CSV has all.
        </p>
      )}
      {m.judged < m.allMachines && (
        <p role="status" className="mb-3 border-l-4 border-accent bg-leaf px-4 py-2">
          {m.judged} of {m.allMachines} machines are judged so far: counts and filters follow as the rest is judged.
        </p>
      )}
      {machine.length > 0 && (
        <p className="mb-2 text-dim">
          Only the {machine.length} selected {machine.length === 1 ? "machine" : "machines"}.{" "}
          <Link className="inline-flex min-h-10 items-center underline" to="/ask">
            Show all machines
          </Link>
        </p>
      )}
      {columns.length === 0 && <p className="mb-3">No kit has this in its name.</p>}
      <p className="mb-2 flex flex-wrap gap-x-5">
        {m.counts
          .filter((c) => c.lean !== "no lean")
          .map((c) => (
            <VerdictMark key={c.answer + c.lean} answer={c.answer} lean={c.lean || undefined} />
          ))}
      </p>
      <MatrixTable
        kits={columns}
        rows={rows}
        pages={query}
        isAsked={(a, l) => (!answer || a === answer) && (!lean || l === lean)}
        picks={picking ? picks : undefined}
        onToggle={(pick) =>
          setPicks({ picks: picks.includes(pick) ? picks.filter((p) => p !== pick) : [...picks, pick] })
        }
      />
      {rows.length === 0 && <p className="mt-3">No machine has this verdict.</p>}
      <More query={query} shown={rows.length} found={m.machinesFound} what="machines" />
      {ordering && (
        <OrderPanel
          picks={picks}
          onClose={() => setOrdering(false)}
          onClear={() => {
            setPicks({ picks: [] });
            setPicking(false);
            setOrdering(false);
          }}
        />
      )}
    </>
  );
}
