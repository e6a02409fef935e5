/** A box to select a row by, with a target as high as the row. */
export function SelectCell({
  label,
  checked,
  onChange,
  head,
}: {
  label: string;
  checked: boolean;
  onChange: (on: boolean) => void;
  head?: boolean;
}) {
  const Cell = head ? "th" : "td";
  return (
    <Cell className="no-print w-10 p-0" {...(head && { scope: "col" })}>
      <label className="grid min-h-10 w-10 cursor-pointer place-items-center compact:min-h-[24px]">
        <input
          type="checkbox"
          aria-label={label}
          className="size-5 accent-accent compact:size-4"
          checked={checked}
          onChange={(e) => onChange(e.target.checked)}
        />
      </label>
    </Cell>
  );
}
