import type { ReactNode } from "react";
import type { Schemas } from "../../api/client";
import { answerWords } from "../../ui/badges";
import { Select } from "../../ui/form";
import { LinkButton } from "../../ui/LinkButton";
import { useMayWork } from "../../ui/session";
import { SearchInput } from "../../ui/table/SearchInput";

/** What of the matrix is asked for, as the address keeps it. */
export const everything = { what: "", name: "", bay: "", answer: "", sort: "kind" };

export type MatrixAsked = typeof everything;

const sorts = [
  ["kind", "By kind and name"],
  ["fits", "Most that fit first"],
  ["leans", "Most that fit or lean to it first"],
] as const;

/** What narrows the matrix, and what can be done with it. */
export function MatrixBar({
  kits,
  matrix: m,
  asked,
  onAsk,
  children,
}: {
  kits: readonly Schemas["Kit"][];
  matrix: Schemas["Matrix"];
  asked: MatrixAsked;
  onAsk: (to: Partial<MatrixAsked>) => void;
  children: ReactNode;
}) {
  const mayWork = useMayWork();
  return (
    <div className="no-print mb-4 flex flex-wrap items-center gap-3">
      <Select
        aria-label="Kind of upgrade"
        className="max-w-60"
        value={asked.what}
        onChange={(what) => onAsk({ what })}
        empty={`Every upgrade (${m.allKits})`}
        options={[...new Set(kits.map((k) => k.what))].sort()}
      />
      <SearchInput
        aria-label="Part of a kit's name"
        placeholder="part of a name"
        value={asked.name}
        onChange={(name) => onAsk({ name })}
      />
      <Select
        aria-label="Bay"
        className="max-w-36"
        value={asked.bay}
        onChange={(bay) => onAsk({ bay })}
        empty="Every bay"
        options={m.bays}
      />
      <Select
        aria-label="Verdict"
        className="max-w-56"
        value={asked.answer}
        onChange={(answer) => onAsk({ answer })}
        empty="Every verdict"
        options={m.counts.map((c) => [c.lean ? `${c.answer}/${c.lean}` : c.answer, answerWords(c.answer, c.lean)])}
      />
      <Select
        aria-label="Order of the kits"
        className="max-w-60"
        value={asked.sort}
        onChange={(sort) => onAsk({ sort })}
        options={sorts}
      />
      {children}
      <LinkButton href="/api/matrix.csv">As CSV</LinkButton>
      <LinkButton to="/plan">Plan several</LinkButton>
      {mayWork && <LinkButton to="/kit/new">New kit</LinkButton>}
    </div>
  );
}
