const months = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];

/** "20 Nov 2026": the months as the server writes them, whatever the browser calls them. */
export function showDay(iso: string | undefined): string {
  if (!iso) return "";
  const at = new Date(iso);
  return `${at.getUTCDate()} ${months[at.getUTCMonth()]} ${at.getUTCFullYear()}`;
}

const month = new Intl.DateTimeFormat("en-GB", { month: "short", year: "numeric", timeZone: "UTC" });

export function showMonth(iso: string): string {
  return month.format(new Date(iso));
}

/** "in 12 days", "3 days ago", counted from the record's clock. */
export function fromToday(iso: string, today: string): string {
  const days = Math.round((Date.parse(iso) - Date.parse(today)) / 86_400_000);
  if (days === 0) return "today";
  if (days === 1) return "tomorrow";
  if (days === -1) return "yesterday";
  if (Math.abs(days) > 700) return days > 0 ? "in years" : "years ago";
  return days > 0 ? `in ${days} days` : `${-days} days ago`;
}
