import { useQuery } from "@tanstack/react-query";
import { useId } from "react";
import { api, type Schemas, take } from "../api/client";
import { Button, Check, Select, TextInput } from "../parts/form";

type Effect = Schemas["Effect"];
type Trait = Schemas["TraitDef"];

const emptied = "none";

/** What is put into which slot, and what the new part is known to be. */
export function EffectsEditor({
  effects,
  onChange,
  name,
  add,
}: {
  effects: readonly Effect[];
  onChange: (effects: Effect[]) => void;
  /** What a line is called to those who cannot see it. */
  name: string;
  /** What the button that adds one says. */
  add: string;
}) {
  const sheet = useQuery({ queryKey: ["catalogue"], queryFn: () => take(api.GET("/api/catalogue")) });
  const catalogue = sheet.data?.catalogue;
  const slots = (catalogue?.slots ?? []).filter((s) => !s.superseded);
  const set = (i: number, e: Effect) => onChange(effects.map((x, k) => (k === i ? e : x)));
  return (
    <>
      <ul className="space-y-3">
        {effects.map((e, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: an effect has no identity but its place
          <li key={i} className="border-l-4 border-line bg-leaf px-3 py-2">
            <EffectFields
              effect={e}
              name={`${name} ${i + 1}`}
              catalogue={catalogue}
              onChange={(x) => set(i, x)}
              onDrop={() => onChange(effects.filter((_, k) => k !== i))}
            />
          </li>
        ))}
      </ul>
      <Button
        className="mt-2"
        disabled={slots.length === 0}
        onClick={() => onChange([...effects, { slot: slots[0]?.key ?? "", model: "" }])}
      >
        {add}
      </Button>
    </>
  );
}

function EffectFields({
  effect,
  name,
  catalogue,
  onChange,
  onDrop,
}: {
  effect: Effect;
  name: string;
  catalogue?: Schemas["Catalogue"];
  onChange: (e: Effect) => void;
  onDrop: () => void;
}) {
  const models = useId();
  const slots = (catalogue?.slots ?? []).filter((s) => !s.superseded || s.key === effect.slot);
  const kind = slots.find((s) => s.key === effect.slot)?.kind;
  const traits = (catalogue?.kinds.find((k) => k.key === kind)?.traits ?? []).filter(
    (t) => t.name !== "model" && !t.superseded,
  );
  const said = Object.entries(effect.traits ?? {});
  const withTraits = (list: [string, string][]) => onChange({ ...effect, traits: Object.fromEntries(list) });
  const left = traits.filter((t) => !said.some(([n]) => n === t.name));
  const empty = effect.model === emptied;
  return (
    <>
      <div className="flex flex-wrap items-center gap-2">
        <Select
          aria-label={`${name}: where`}
          className="max-w-56"
          value={effect.slot}
          onChange={(slot) => onChange({ slot, model: effect.model })}
          options={slots.map((s) => [s.key, s.label] as const)}
        />
        <Check
          label="is left empty"
          checked={empty}
          onChange={(on) => onChange({ slot: effect.slot, model: on ? emptied : "" })}
        />
        {!empty && (
          <>
            <TextInput
              aria-label={`${name}: what`}
              className="max-w-64"
              placeholder="model"
              list={models}
              value={effect.model}
              onChange={(model) => onChange({ ...effect, model })}
            />
            <datalist id={models}>
              {catalogue?.models
                .filter((m) => m.kind === kind && !m.superseded)
                .map((m) => (
                  <option key={m.name} value={m.name} />
                ))}
            </datalist>
          </>
        )}
        <Button danger onClick={onDrop}>
          Drop
        </Button>
      </div>
      {!empty && (
        <ul className="mt-2 space-y-2 pl-4">
          {said.map(([trait, value], i) => (
            <li key={trait} className="flex flex-wrap items-center gap-2">
              <Select
                aria-label={`${name}: trait ${i + 1}`}
                className="max-w-64"
                value={trait}
                onChange={(n) => withTraits(said.map((x, k) => (k === i ? [n, ""] : x)))}
                options={traits
                  .filter((t) => t.name === trait || left.includes(t))
                  .map((t) => [t.name, t.label] as const)}
              />
              <TraitValue
                label={`${name}: value ${i + 1}`}
                trait={traits.find((t) => t.name === trait)}
                value={value}
                onChange={(v) => withTraits(said.map((x, k) => (k === i ? [trait, v] : x)))}
              />
              <Button
                aria-label={`${name}: drop trait ${i + 1}`}
                onClick={() => withTraits(said.filter((_, k) => k !== i))}
              >
                ✕
              </Button>
            </li>
          ))}
          {left[0] && (
            <li>
              <Button onClick={() => left[0] && withTraits([...said, [left[0].name, ""]])}>Say what it is</Button>
            </li>
          )}
        </ul>
      )}
    </>
  );
}

function TraitValue({
  label,
  trait,
  value,
  onChange,
}: {
  label: string;
  trait?: Trait;
  value: string;
  onChange: (v: string) => void;
}) {
  const choices = trait?.kind === "yes/no" ? ["yes", "no"] : (trait?.choices ?? []);
  if (choices.length > 0)
    return (
      <Select
        aria-label={label}
        className="max-w-60"
        value={value}
        onChange={onChange}
        empty="Choose"
        options={choices}
      />
    );
  return (
    <span className="flex items-center gap-2">
      <TextInput
        aria-label={label}
        className="max-w-40"
        inputMode={trait?.kind === "number" ? "decimal" : "text"}
        value={value}
        onChange={onChange}
      />
      {trait?.unit}
    </span>
  );
}
