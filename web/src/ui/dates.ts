const months = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];

/** The API writes moments in the shop's time zone, so that their first letters are the shop's day. */
function partsOf(iso: string): [number, number, number] {
  const [y = 0, m = 1, d = 1] = iso.slice(0, 10).split("-").map(Number);
  return [y, m, d];
}

/** "20 Nov 2026", whatever the browser's own time zone and language are. */
export function showDay(iso: string | undefined): string {
  if (!iso) return "";
  const [y, m, d] = partsOf(iso);
  return `${d} ${months[m - 1]} ${y}`;
}

/** "20 Nov 2026, 14:05" */
export function showMoment(iso: string): string {
  return `${showDay(iso)}, ${iso.slice(11, 16)}`;
}

/** "Nov 2026" */
export function showMonth(iso: string): string {
  const [y, m] = partsOf(iso);
  return `${months[m - 1]} ${y}`;
}
