import { useDeferredValue, useState } from "react";
import { Link, useSearchParams } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { alongCells } from "../../ui/alongRows";
import { answerWords, VerdictMark } from "../../ui/badges";
import { useDraft } from "../../ui/draft";
import { Button, Check, Select, TextInput } from "../../ui/form";
import { LinkButton } from "../../ui/LinkButton";
import { More, PAGE, usePages } from "../../ui/pages";
import { useMayWork } from "../../ui/session";
import { Loaded } from "../../ui/states";
import { OrderPanel } from "./OrderPanel";

type Mark = Schemas["Counted"];

const sorts = [
  ["kind", "By kind and name"],
  ["fits", "Most that fit first"],
  ["leans", "Most that fit or lean to it first"],
] as const;

/** More columns than these nobody reads, and no browser draws at once. */
const mostColumns = 60;

/** Machines by kits: four marks told apart by their shape, each a way to its reasons. */
export function MatrixView({ kits }: { kits: readonly Schemas["Kit"][] }) {
  const mayWork = useMayWork();
  const [view, setView] = useDraft("matrix", {
    what: "",
    name: "",
    bay: "",
    answer: "",
    sort: "kind" as "kind" | "fits" | "leans",
    picks: [] as string[],
  });
  const [picking, setPicking] = useState(false);
  const [ordering, setOrdering] = useState(false);
  const [answer = "", lean = ""] = view.answer.split("/") as [Mark["answer"] | "", Mark["lean"]];
  const [address] = useSearchParams();
  const machine = address.getAll("machine").map(Number);
  const question = {
    machine,
    what: view.what,
    name: useDeferredValue(view.name),
    sort: view.sort,
    kits: mostColumns,
    bay: view.bay,
    answer,
    lean,
  };
  const {
    query,
    first: m,
    rows,
  } = usePages(
    ["matrix", question],
    (offset) => unwrap(api.GET("/api/matrix", { params: { query: { ...question, offset, limit: PAGE } } })),
    (page) => page.machines,
    (page) => page.machinesFound,
  );
  const whats = [...new Set(kits.map((k) => k.what))].sort();
  if (!m)
    return (
      <Loaded query={query} what="Judging every kit on every machine">
        {() => null}
      </Loaded>
    );
  const columns = m.kits;
  const isAsked = (a?: Mark["answer"], l?: string) => (!answer || a === answer) && (!lean || l === lean);
  const toggle = (pick: string) =>
    setView({
      ...view,
      picks: view.picks.includes(pick) ? view.picks.filter((p) => p !== pick) : [...view.picks, pick],
    });
  return (
    <>
      <div className="no-print mb-4 flex flex-wrap items-center gap-3">
        <Select
          aria-label="Kind of upgrade"
          className="max-w-60"
          value={view.what}
          onChange={(what) => setView({ ...view, what })}
          empty={`Every upgrade (${m.allKits})`}
          options={whats}
        />
        <TextInput
          aria-label="Part of a kit's name"
          className="max-w-44"
          placeholder="part of a name"
          value={view.name ?? ""}
          onChange={(name) => setView({ ...view, name })}
        />
        <Select
          aria-label="Bay"
          className="max-w-36"
          value={view.bay}
          onChange={(bay) => setView({ ...view, bay })}
          empty="Every bay"
          options={m.bays}
        />
        <Select
          aria-label="Verdict"
          className="max-w-56"
          value={view.answer}
          onChange={(answer) => setView({ ...view, answer })}
          empty="Every verdict"
          options={m.counts.map((c) => [c.lean ? `${c.answer}/${c.lean}` : c.answer, answerWords(c.answer, c.lean)])}
        />
        <Select
          aria-label="Order of the kits"
          className="max-w-60"
          value={view.sort ?? "kind"}
          onChange={(sort) => setView({ ...view, sort: sort as typeof view.sort })}
          options={sorts}
        />
        <Check label="Pick kits to order" checked={picking} onChange={setPicking} />
        {view.picks.length > 0 && (
          <Button main onClick={() => setOrdering(true)}>
            Order list: {view.picks.length}
          </Button>
        )}
        <LinkButton href="/api/matrix.csv">As CSV</LinkButton>
        <LinkButton to="/plan">Plan several</LinkButton>
        {mayWork && <LinkButton to="/kit/new">New kit</LinkButton>}
      </div>
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
      {/* biome-ignore lint/a11y/noStaticElementInteractions: only passes arrow keys on to the cells inside */}
      <div className="relative max-h-[75vh] overflow-auto border-2 border-line bg-leaf" onKeyDown={alongCells}>
        <table className="border-collapse">
          <thead className="sticky top-0 z-10 bg-wall">
            <tr className="align-bottom">
              <th scope="col" className="sticky left-0 z-10 bg-wall px-3 pb-1 text-left">
                Machine
                <span className="block font-mono text-sm font-normal whitespace-nowrap text-dim">
                  <b className="text-good">fit</b>
                  <br />
                  <span className="text-look">lean to it</span> of look first
                </span>
              </th>
              {columns.map((k) => (
                <th key={k.key} scope="col" className="p-0 align-bottom font-normal">
                  <Link
                    to={`/ask/${k.key}`}
                    title={`${k.what}: fits ${k.counts.fits}, fits if ${k.counts.fitsIf}, look first ${k.counts.lookFirst} (leans to fits ${k.counts.leansFits}, to fits if ${k.counts.leansFitsIf}, to does not fit ${k.counts.leansDoesNotFit}, no lean ${k.counts.noLean}), does not fit ${k.counts.doesNotFit}`}
                    className="flex w-14 flex-col items-center hover:bg-wash"
                  >
                    <span className="flex h-44 rotate-180 compact:h-66 compact:text-sm items-center pt-2 text-left leading-tight font-semibold [writing-mode:vertical-rl]">
                      {k.name}
                    </span>
                    <span className="mt-1 block w-full border-t border-rule py-1 text-center font-mono text-sm text-dim">
                      <b className="block text-base text-good">{k.counts.fits + k.counts.fitsIf}</b>
                      <span className="text-look">{k.counts.leansFits + k.counts.leansFitsIf}</span>/
                      {k.counts.lookFirst}
                    </span>
                  </Link>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((r) => (
              <tr key={r.id} className="border-t border-rule hover:bg-wash">
                <th scope="row" className="sticky left-0 bg-leaf px-3 text-left whitespace-nowrap">
                  {r.name} <span className="font-normal text-dim">{r.bay}</span>
                </th>
                {columns.map((k, i) => {
                  const is = r.answers[i] ?? "look first";
                  const leaning = r.leans[i] || undefined;
                  const head = r.heads[i] || 0;
                  const words = `${answerWords(is, leaning)}${head ? `, head ${head}` : ""}`;
                  const pick = `${k.key} ${r.id}`;
                  return (
                    <td
                      key={k.key}
                      className={`p-0 text-center ${view.answer && !isAsked(is, leaning) ? "opacity-40" : ""}`}
                    >
                      {picking && is !== "does not fit" ? (
                        <label
                          className="mx-auto flex size-11 cursor-pointer flex-col items-center justify-center"
                          title={`${r.name}: ${k.name}, ${words}`}
                        >
                          <VerdictMark answer={is} lean={leaning} word={false} />
                          <input
                            data-cell
                            type="checkbox"
                            className="size-4 accent-accent"
                            aria-label={`${k.name} for ${r.name}`}
                            checked={view.picks.includes(pick)}
                            onChange={() => toggle(pick)}
                          />
                        </label>
                      ) : (
                        <Link
                          data-cell
                          to={`/ask/${k.key}/${r.id}`}
                          title={`${r.name}: ${k.name}, ${words}`}
                          className="relative mx-auto grid size-11 place-items-center"
                        >
                          <VerdictMark answer={is} lean={leaning} word={false} />
                          {head > 0 && (
                            <span aria-hidden className="absolute right-0 bottom-0 font-mono text-xs text-dim">
                              {head}
                            </span>
                          )}
                        </Link>
                      )}
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {rows.length === 0 && <p className="mt-3">No machine has this verdict.</p>}
      <More query={query} shown={rows.length} found={m.machinesFound} what="machines" />
      {ordering && (
        <OrderPanel
          picks={view.picks}
          onClose={() => setOrdering(false)}
          onClear={() => {
            setView({ ...view, picks: [] });
            setPicking(false);
            setOrdering(false);
          }}
        />
      )}
    </>
  );
}
