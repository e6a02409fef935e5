import { useQuery } from "@tanstack/react-query";
import { X } from "lucide-react";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { gradeWords } from "../badges";
import { Button, Select, TextInput } from "../form";
import type { Column, Filter, Question, TestKind } from "./question";

/** Plain filters: what, how compared, with what. */
export function Filters({
  question,
  columns,
  tests,
  onChange,
}: {
  question: Question;
  columns: Column[];
  tests: readonly TestKind[];
  onChange: (q: Question) => void;
}) {
  const where = question.where;
  const set = (i: number, f: Filter) => onChange({ ...question, where: where.map((x, k) => (k === i ? f : x)) });
  return (
    <fieldset className="min-w-0 border-2 border-line bg-leaf px-4 py-3">
      <legend className="px-1 font-semibold">Only machines where</legend>
      <ul className="space-y-2">
        {where.map((f, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a filter has no identity but its place
          <li key={i} className="flex flex-wrap items-center gap-2">
            <ColumnSelect
              label={`Filter ${i + 1}: what`}
              columns={columns}
              value={f.of}
              onChange={(of) => set(i, { of, test: "is", value: "" })}
            />
            <Select
              aria-label={`Filter ${i + 1}: how`}
              className="max-w-56"
              value={f.test}
              onChange={(test) => set(i, { ...f, test: test as Filter["test"] })}
              options={tests.filter((t) => t.fields || !f.of.startsWith("machine.")).map((t) => t.test)}
            />
            {!tests.find((t) => t.test === f.test)?.bare && (
              <ValueInput
                filter={f}
                column={columns.find((c) => c.key === f.of)}
                place={i}
                onChange={(x) => set(i, x)}
              />
            )}
            <button
              type="button"
              aria-label={`Remove filter ${i + 1}`}
              className="grid size-11 place-items-center border-2 border-line hover:border-bad"
              onClick={() => onChange({ ...question, where: where.filter((_, k) => k !== i) })}
            >
              <X size={18} />
            </button>
          </li>
        ))}
      </ul>
      <div className="mt-2 flex flex-wrap items-center gap-3">
        <Button
          onClick={() => onChange({ ...question, where: [...where, { of: "mainboard", test: "is", value: "" }] })}
        >
          Add a filter
        </Button>
        {where.length > 1 && (
          <Select
            aria-label="Whether all filters or any"
            className="max-w-56"
            value={question.match || "all"}
            onChange={(match) => onChange({ ...question, match: match as "all" })}
            options={[
              ["all", "all of these are true"],
              ["any", "any of these is true"],
            ]}
          />
        )}
      </div>
    </fieldset>
  );
}

function ValueInput({
  filter: f,
  column,
  place,
  onChange,
}: {
  filter: Filter;
  column?: Column;
  place: number;
  onChange: (f: Filter) => void;
}) {
  const label = `Filter ${place + 1}: value`;
  const value = f.value ?? "";
  const to = (v: string) => onChange({ ...f, value: v });
  const offered = useQuery({
    queryKey: keys.fleetValues(f.of),
    queryFn: () => unwrap(api.GET("/api/fleet/values", { params: { query: { of: f.of } } })),
    staleTime: 60_000,
  });
  const exact = f.test === "is" || f.test === "is not";
  if (f.test === "known at least as" || f.test === "known less than")
    return (
      <Select
        aria-label={label}
        className="max-w-40"
        value={value}
        onChange={to}
        options={gradeWords.map(([g]) => g)}
        empty="Choose"
      />
    );
  if (exact && column?.choices?.length)
    return (
      <Select
        aria-label={label}
        className="max-w-60"
        value={value}
        onChange={to}
        options={column.choices}
        empty="Choose"
      />
    );
  const unit = f.test === "read longer ago than" ? "days" : column?.unit;
  return (
    <span className="flex items-center gap-2">
      <TextInput
        aria-label={label}
        list={`values-${place}`}
        className="w-44"
        value={value}
        onChange={to}
        inputMode={unit || column?.kind === "number" ? "decimal" : "text"}
      />
      <datalist id={`values-${place}`}>
        {offered.data?.map((v) => (
          <option key={v} value={v} />
        ))}
      </datalist>
      {unit}
    </span>
  );
}

export function ColumnSelect({
  label,
  columns,
  value,
  onChange,
  empty,
}: {
  label: string;
  columns: Column[];
  value: string;
  onChange: (key: string) => void;
  empty?: string;
}) {
  const groups = [...new Set(columns.map((c) => c.group))];
  return (
    <select
      aria-label={label}
      className="min-h-11 max-w-72 border-2 border-line bg-leaf px-3 py-1.5 text-ink focus:border-accent"
      value={value}
      onChange={(e) => onChange(e.target.value)}
    >
      {empty !== undefined && <option value="">{empty}</option>}
      {groups.map((g) => (
        <optgroup key={g} label={g}>
          {columns
            .filter((c) => c.group === g)
            .map((c) => (
              <option key={c.key} value={c.key}>
                {c.label}
              </option>
            ))}
        </optgroup>
      ))}
    </select>
  );
}
