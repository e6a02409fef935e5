/** A key from a name: "Chamber heater" becomes chamber-heater. */
export function keyOf(name: string) {
  return name
    .toLowerCase()
    .normalize("NFKD")
    .replace(/[^a-z0-9]+/g, "-")
    .replace(/^[^a-z]+|-+$/g, "")
    .slice(0, 40);
}

export function listOf(text: string, separator: RegExp = /\s*[,;]\s*/) {
  return text
    .split(separator)
    .map((t) => t.trim())
    .filter(Boolean);
}

/** Whether a model is proposed where one is chosen. */
export function isProposed(m: { superseded?: string; hidden?: boolean }): boolean {
  return !m.superseded && !m.hidden;
}
