import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import type { Question } from "../../ui/fleet/question";
import type { Paged } from "../../ui/pages";
import type { Column } from "../../ui/table/column";
import { Table } from "../../ui/table/Table";
import { AnswerCell } from "./AnswerCell";

type Answer = Schemas["Answer"];
type Line = Schemas["Line"];

/** The fleet's answer, sorted and grouped by the server. */
export function AnswerTable({
  answer,
  question,
  pages,
  onSort,
  selected,
  onSelect,
}: {
  answer: Answer;
  question: Question;
  pages: Paged;
  onSort: (sort: string, down: boolean) => void;
  selected: readonly number[];
  onSelect: (ids: readonly number[]) => void;
}) {
  const columns: Column<Line>[] = [
    {
      key: "machine.name",
      label: "Machine",
      sort: true,
      names: true,
      cell: (line) => (
        <Link
          data-row
          to={`/machine/${line.id}`}
          className="flex min-h-12 items-center px-3 py-0.5 text-lg leading-tight font-bold compact:min-h-9 compact:text-base"
        >
          {line.name}
        </Link>
      ),
    },
    ...answer.columns.map(
      (c, i): Column<Line> => ({
        key: c.key,
        label: c.label,
        sort: true,
        cell: (line) => <AnswerCell cell={line.cells[i]} column={c} />,
      }),
    ),
  ];
  const groups = new Map(answer.groups?.map((g) => [g.name, g.count]));
  return (
    <Table
      label="machines"
      rows={answer.rows}
      columns={columns}
      keyOf={(line) => line.id}
      nameOf={(line) => line.name}
      how={{
        sort: question.sort || "machine.name",
        down: question.down ?? false,
        group: question.group ?? "",
        only: {},
      }}
      onArrange={(to) => onSort(to.sort ?? "", to.down ?? false)}
      groupOf={question.group ? (line) => line.group ?? "" : undefined}
      groupCount={(name) => groups.get(name) ?? 0}
      pages={pages}
      selected={selected}
      onSelect={(ids) => onSelect(ids.map(Number))}
    />
  );
}
