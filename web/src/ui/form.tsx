import { type ComponentProps, type ReactNode, useRef, useState } from "react";

export function Button({
  main,
  danger,
  className = "",
  ...rest
}: ComponentProps<"button"> & { main?: boolean; danger?: boolean }) {
  const tone = main
    ? "bg-accent text-on-accent border-accent hover:brightness-125"
    : danger
      ? "border-bad text-bad hover:bg-bad-wash"
      : "border-line bg-leaf hover:border-accent hover:bg-wash";
  return (
    <button
      type="button"
      {...rest}
      className={`inline-flex min-h-11 items-center justify-center gap-2 border-2 px-4 font-semibold disabled:cursor-not-allowed disabled:opacity-60 ${tone} ${className}`}
    />
  );
}

export function Field({
  label,
  htmlFor,
  hint,
  fault,
  children,
}: {
  label: ReactNode;
  htmlFor: string;
  hint?: ReactNode;
  fault?: FaultText;
  children: ReactNode;
}) {
  return (
    <div className="min-w-0">
      <label htmlFor={htmlFor} className="mb-1 block font-semibold">
        {label}
      </label>
      {children}
      {hint && <p className="mt-1 text-sm text-dim">{hint}</p>}
      {fault && <Fault text={fault} />}
    </div>
  );
}

const box =
  "w-full min-h-11 border-2 border-line bg-leaf px-3 py-1.5 text-ink focus:border-accent placeholder:text-dim";

type Text = Omit<ComponentProps<"input">, "onChange" | "value"> & { value: string; onChange: (value: string) => void };

export function TextInput({ value, onChange, className = "", ...rest }: Text) {
  return <input {...rest} value={value} onChange={(e) => onChange(e.target.value)} className={`${box} ${className}`} />;
}

type Area = Omit<ComponentProps<"textarea">, "onChange" | "value"> & {
  value: string;
  onChange: (value: string) => void;
};

export function TextArea({ value, onChange, className = "", ...rest }: Area) {
  return (
    <textarea
      rows={3}
      {...rest}
      value={value}
      onChange={(e) => onChange(e.target.value)}
      className={`${box} ${className}`}
    />
  );
}

type Pick = Omit<ComponentProps<"select">, "onChange" | "value"> & {
  value: string;
  onChange: (value: string) => void;
  options: readonly (string | readonly [string, string])[];
  empty?: string;
};

export function Select({ value, onChange, options, empty, className = "", ...rest }: Pick) {
  return (
    <select {...rest} value={value} onChange={(e) => onChange(e.target.value)} className={`${box} ${className}`}>
      {empty !== undefined && <option value="">{empty}</option>}
      {options.map((o) => {
        const [v, label] = typeof o === "string" ? [o, o] : o;
        return (
          <option key={v} value={v}>
            {label}
          </option>
        );
      })}
    </select>
  );
}

export function Check({
  label,
  checked,
  onChange,
  disabled,
}: {
  label: ReactNode;
  checked: boolean;
  onChange: (on: boolean) => void;
  disabled?: boolean;
}) {
  return (
    <label className="flex min-h-11 cursor-pointer items-center gap-3">
      <input
        type="checkbox"
        className="size-6 shrink-0 accent-accent"
        checked={checked}
        disabled={disabled}
        onChange={(e) => onChange(e.target.checked)}
      />
      <span>{label}</span>
    </label>
  );
}

/** A fault as the API states it: a sentence, or one with the meanings that something typed can have. */
export type FaultText =
  | string
  | { text: string; written: string; meanings: readonly string[]; fields: readonly string[] };

/** A fault beside what it is about; read out when it appears. */
export function Fault({ text }: { text?: FaultText }) {
  const place = useRef<HTMLDivElement>(null);
  const [chosen, setChosen] = useState<FaultText>();
  if (!text || chosen === text) return null;
  if (typeof text !== "string" && text.meanings.length > 0)
    return (
      <div ref={place}>
        <Choices
          text={text.text}
          meanings={text.meanings}
          onChoose={(meaning) => {
            // Where there is no form, as at a step of work, what was chosen is typed and sent by hand.
            const around = place.current?.closest<HTMLElement>("form, [role=dialog], main");
            if (!around || !retype(around, text, meaning)) return;
            setChosen(text);
            // The form sees what was typed into it before it is sent.
            if (around instanceof HTMLFormElement) setTimeout(() => around.requestSubmit());
          }}
        />
      </div>
    );
  return (
    <p role="alert" className="mt-2 border-l-4 border-bad bg-bad-wash px-3 py-2 font-medium text-ink">
      {typeof text === "string" ? text : text.text}
    </p>
  );
}

/** Types a meaning into the fields that the API names; whether there was any. Where the form calls none so, into those
 * that hold what has several. */
function retype(
  around: HTMLElement,
  { written, fields }: { written: string; fields: readonly string[] },
  meaning: string,
): boolean {
  const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value")?.set;
  const holding = [...around.querySelectorAll("input")].filter((field) => {
    const at = field.value.indexOf(written);
    return at >= 0 && !/[\d.,]/.test(field.value.slice(0, at) + field.value.slice(at + written.length));
  });
  const named = holding.filter((field) => fields.some((pointer) => calls(field, pointer)));
  const meant = named.length > 0 ? named : holding;
  for (const field of meant) {
    set?.call(field, field.value.replace(written, meaning));
    field.dispatchEvent(new Event("input", { bubbles: true }));
  }
  return meant.length > 0;
}

/** Whether a field is called as the last name of a JSON pointer: "/data/gearRatio" is gearRatio, or …-gear-ratio. */
function calls(field: HTMLInputElement, pointer: string): boolean {
  const name = pointer.split("/").findLast((part) => !/^\d*$/.test(part)) ?? "";
  const kebab = name.replace(/[A-Z]/g, (c) => `-${c.toLowerCase()}`);
  return name !== "" && (field.name === name || field.id === kebab || field.id.endsWith(`-${kebab}`));
}

/** Something typed that means one thing or another: one of them is chosen. */
export function Choices({
  text,
  meanings,
  onChoose,
}: {
  text: string;
  meanings: readonly string[];
  onChoose: (meaning: string) => void;
}) {
  return (
    <div role="alert" className="mt-2 border-l-4 border-look bg-look-wash px-3 py-2 text-ink">
      <p className="font-medium">{text}</p>
      {meanings.length > 0 && (
        <p className="mt-1 flex flex-wrap gap-2">
          {meanings.map((m) => (
            <Button key={m} onClick={() => onChoose(m)}>
              It is {m}
            </Button>
          ))}
        </p>
      )}
    </div>
  );
}

export function Cautions({ list }: { list: readonly string[] | undefined }) {
  if (!list?.length) return null;
  return (
    <aside aria-label="Caution" className="border-2 border-look bg-look-wash px-4 py-3">
      <ul className="space-y-1">
        {list.map((c) => (
          <li key={c} className="flex gap-2">
            <span aria-hidden="true" className="font-bold text-look">
              ▲
            </span>
            {c}
          </li>
        ))}
      </ul>
    </aside>
  );
}
