/** The day on which a week starts in this shop, 0 for Sunday: known before any calendar is shown. */
let day: 0 | 1 | 6 = 1;

export function setWeekStart(start: "monday" | "sunday" | "saturday") {
  day = ({ sunday: 0, monday: 1, saturday: 6 } as const)[start];
}

export function weekStart() {
  return day;
}
