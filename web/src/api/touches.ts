import type { QueryKey } from "@tanstack/react-query";
import { type Asked, keys } from "./keys";

/** What follows from neither machines nor work: a write there leaves it as it is. */
const apart: readonly Asked[] = [
  "accountNames",
  "askable",
  "calendarLinks",
  "notices",
  "bench",
  "catalogue",
  "day",
  "imports",
  "kitEntry",
  "kitWords",
  "kits",
  "lasting",
  "marking",
  "number",
  "ownSessions",
  "people",
  "purchase",
  "purchases",
  "session",
  "shop",
  "sum",
  "symptoms",
  "tryKit",
];
const every = Object.keys(keys) as Asked[];
const ofMachines = every.filter((name) => !apart.includes(name));

/** What each write touches, by the beginning of its address; the first that fits counts. A write
 * that stands in no line touches everything: settings, the catalogue, imports. */
const touches: readonly (readonly [RegExp, readonly Asked[]])[] = [
  // Questions that are too long for an address.
  [/^\/api\/((orders|plans|numbers|bench|fleet\/ask|kits\/try)\b|.*\/(preview|open|understand)$)/, []],
  [/^\/api\/people\b/, ["people", "accountNames", "session", "ownSessions", "changes", "calendar", "roster", "today"]],
  [/^\/api\/tokens\b/, ["tokens", "changes"]],
  [/^\/api\/account\b/, ["session", "ownSessions", "people"]],
  [
    /^\/api\/(purchases|arrivals)\b/,
    ["purchases", "purchase", "parts", "part", "partsFor", "suppliers", "orderFor", "changes", "spares"],
  ],
  [/^\/api\/safety\b/, ["safety"]],
  [/^\/api\/(carry-over$|machines\/\d+\/firmware\/(want|message)$)/, []],
  [/^\/api\/carry-over\b/, ["changes"]],
  [/^\/api\/print-files\b/, ["printFiles", "printFile"]],
  [
    /^\/api\/(machines\/\d+\/settings|settings-files|setting-words)\b/,
    ["machineSettings", "settingsFile", "drift", "settingWords", "sheet", "printFiles", "printFile", "changes"],
  ],
  [/^\/api\/machines\/\d+\/(firmware|ways-back)\b/, ["firmware", "changes", "timeline"]],
  [/^\/api\/notices\b/, ["notices"]],
  [/^\/api\/visits\b/, []],
  [
    /^\/api\/(bookings|calendar|closures)\b/,
    [
      "bookingCheck",
      "calendar",
      "calendarLinks",
      "faultAhead",
      "machineUse",
      "myBookings",
      "notices",
      "today",
      "usable",
      "changes",
    ],
  ],
  [
    /^\/api\/(roster|planning)\b/,
    ["roster", "planning", "calendar", "today", "spares", "bookingCheck", "notices", "changes"],
  ],
  [/^\/api\/spares\b/, ["spares", "roster", "changes"]],
  [/^\/api\/questions\b/, ["askable"]],
  [
    /^\/api\/(faults|machines\/\d+\/faults)\b/,
    [
      "faults",
      "dangers",
      "machineUse",
      "notices",
      "sheet",
      "answer",
      "usable",
      "fleet",
      "timeline",
      "changes",
      "due",
      "today",
      "faultAhead",
      "calendar",
      "roster",
      "bookingCheck",
      "reliability",
    ],
  ],
  [/^\/api\/(parts|builds)\b/, [...ofMachines, "purchase"]],
  [/^\/api\/(machines|fleet|work|readings|calibrations)\b/, ofMachines],
];

/** Whether what was asked may be another since writes to some addresses. */
export function touchedBy(paths: readonly string[]): (asked: QueryKey) => boolean {
  const of = new Set(paths.flatMap((path) => touches.find(([at]) => at.test(path))?.[1] ?? every));
  return (asked) => of.has(asked[0] as Asked);
}
