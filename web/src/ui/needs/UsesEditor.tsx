import type { Schemas } from "../../api/client";
import { Button, Select, TextInput } from "../form";
import { NumberInput } from "../NumberInput";
import { useKitWords } from "./words";

/** What a kit takes of the machine's budgets, or frees. */
export function UsesEditor({
  uses,
  onChange,
  name,
  add,
}: {
  uses: readonly Schemas["Use"][];
  onChange: (uses: Schemas["Use"][]) => void;
  /** What a line is called to those who cannot see it. */
  name: string;
  /** What the button that adds one says. */
  add: string;
}) {
  const words = useKitWords();
  const set = (i: number, change: Partial<Schemas["Use"]>) =>
    onChange(uses.map((u, k) => (k === i ? { ...u, ...change } : u)));
  return (
    <div>
      {uses.map((u, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a line has no identity but its place
        <div key={i} className="mb-2 flex flex-wrap items-center gap-2">
          <Select
            aria-label={`${name} ${i + 1}: of what`}
            className="max-w-64"
            value={u.budget}
            onChange={(budget) => set(i, { budget: budget as Schemas["Use"]["budget"] })}
            options={(words?.budgets ?? []).map((b) => [b.key, b.unit ? `${b.title}, ${b.unit}` : b.title] as const)}
          />
          <NumberInput
            aria-label={`${name} ${i + 1}: how much`}
            className="max-w-24"
            value={u.amount}
            onChange={(amount) => set(i, { amount })}
          />
          <TextInput
            aria-label={`${name} ${i + 1}: for what`}
            className="max-w-56"
            placeholder="for what"
            value={u.for ?? ""}
            onChange={(v) => set(i, { for: v })}
          />
          <span className="flex items-center gap-2">
            leaving
            <NumberInput
              aria-label={`${name} ${i + 1}: what must be left`}
              className="max-w-20"
              value={u.keep ?? 0}
              onChange={(keep) => set(i, { keep })}
            />
          </span>
          <Button danger onClick={() => onChange(uses.filter((_, k) => k !== i))}>
            Remove
          </Button>
        </div>
      ))}
      <Button onClick={() => onChange([...uses, { budget: "flash", amount: 0 }])}>{add}</Button>
    </div>
  );
}
