/** A price as typed, with a point or a comma; undefined when empty. */
export function moneyOf(text: string): number | undefined {
  const n = Number(text.trim().replace(",", "."));
  return text.trim() === "" || Number.isNaN(n) ? undefined : n;
}

export const moneyPattern = {
  inputMode: "decimal",
  pattern: "[0-9]+([.,][0-9]{1,2})?",
  title: "An amount such as 46 or 12.50",
} as const;

export function showMoney(n: number | undefined): string {
  return n === undefined ? "" : n.toLocaleString("en-GB", { maximumFractionDigits: 2 });
}
