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

let format = formatOf("EUR");

function formatOf(currency: string) {
  return new Intl.NumberFormat("en-GB", { style: "currency", currency, trailingZeroDisplay: "stripIfInteger" });
}

/** Sets the shop's currency, ISO 4217: known before any price is shown. */
export function setCurrency(code: string) {
  format = formatOf(code);
}

/** An amount in the shop's currency. */
export function showMoney(n: number | undefined): string {
  return n === undefined ? "" : format.format(n);
}
