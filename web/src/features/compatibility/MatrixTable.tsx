import { type MouseEvent, useCallback } from "react";
import { Link, useNavigate } from "react-router";
import type { Schemas } from "../../api/client";
import type { Paged } from "../../ui/pages";
import type { Column } from "../../ui/table/column";
import { Table } from "../../ui/table/Table";
import { MatrixCell } from "./MatrixCell";

type Row = Schemas["MatrixMachine"];
type Kit = Schemas["MatrixKit"];
type Mark = Schemas["Counted"];

/** Machines by kits; the arrow keys go over the cells. */
export function MatrixTable({
  kits,
  rows,
  pages,
  isAsked,
  picks,
  onToggle,
}: {
  kits: readonly Kit[];
  rows: readonly Row[];
  pages: Paged;
  /** Whether a verdict is one of those that are looked for. */
  isAsked: (answer: Mark["answer"], lean?: string) => boolean;
  /** What was picked to order, while it is picked. */
  picks?: readonly string[];
  onToggle: (pick: string) => void;
}) {
  const go = useNavigate();
  const follow = useCallback(
    (e: MouseEvent<HTMLAnchorElement>) => {
      if (e.button !== 0 || e.metaKey || e.ctrlKey || e.shiftKey || e.altKey) return; // a new tab or window
      e.preventDefault();
      go(e.currentTarget.pathname);
    },
    [go],
  );
  const columns: Column<Row>[] = [
    {
      key: "machine",
      label: "Machine",
      names: true,
      className: "px-3 whitespace-nowrap",
      headClassName: "px-3 pb-1 align-bottom",
      head: (
        <>
          Machine
          <span className="block font-mono text-sm font-normal whitespace-nowrap text-dim">
            <b className="text-good">fit</b>
            <br />
            <span className="text-look">lean to it</span> of look first
          </span>
        </>
      ),
      cell: (r) => (
        <>
          <b>{r.name}</b> <span className="font-normal text-dim">{r.bay}</span>
        </>
      ),
    },
    ...kits.map(
      (kit, i): Column<Row> => ({
        key: kit.key,
        label: kit.name,
        head: <KitHead kit={kit} />,
        headClassName: "p-0 align-bottom font-normal",
        className: "p-0 text-center",
        cell: (r) => {
          const answer = r.answers[i] ?? "look first";
          const lean = r.leans[i] || undefined;
          const pick = `${kit.key} ${r.id}`;
          return (
            <MatrixCell
              kit={kit}
              row={r}
              answer={answer}
              lean={lean}
              head={r.heads[i] || 0}
              faint={!isAsked(answer, lean)}
              picked={picks?.includes(pick)}
              onToggle={() => onToggle(pick)}
              onFollow={follow}
            />
          );
        },
      }),
    ),
  ];
  return (
    <Table label="verdicts" rows={rows} columns={columns} keyOf={(r) => r.id} pages={pages} arrows="cells" framed />
  );
}

function KitHead({ kit: k }: { kit: Kit }) {
  return (
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
        <span className="text-look">{k.counts.leansFits + k.counts.leansFitsIf}</span>/{k.counts.lookFirst}
      </span>
    </Link>
  );
}
