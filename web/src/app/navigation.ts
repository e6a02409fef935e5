import {
  Calculator,
  CalendarCheck2,
  CalendarDays,
  CircuitBoard,
  FileCheck2,
  ListChecks,
  type LucideIcon,
  PackageOpen,
  Puzzle,
  Rows3,
  TriangleAlert,
} from "lucide-react";
import type { Role } from "../ui/session";

/** A place of the application: its address and those that belong to it, its single key, and who works there. */
export type Place = {
  path: string;
  label: string;
  key: string;
  hint: string;
  icon: LucideIcon;
  roles: readonly Role[];
  /** Other addresses of the same place, by their beginning. */
  also?: readonly string[];
  /** Stands in the bar at the bottom of a phone. */
  bar?: boolean;
};

const staff = ["technician", "lead"] as const;
const all = ["member", ...staff] as const;

const every: readonly Place[] = [
  {
    path: "/today",
    label: "Today",
    key: "d",
    hint: "what comes next, the calendar, the weeks ahead",
    icon: CalendarCheck2,
    roles: staff,
    also: ["/calendar", "/weeks", "/reliability", "/planning", "/bookings"],
    bar: true,
  },
  {
    path: "/use",
    label: "Use a machine",
    key: "d",
    hint: "which machine can be used now",
    icon: CalendarCheck2,
    roles: ["member"],
    bar: true,
  },
  {
    path: "/bookings",
    label: "Your bookings",
    key: "k",
    hint: "your own bookings, and the calendar",
    icon: CalendarDays,
    roles: ["member"],
    also: ["/calendar"],
    bar: true,
  },
  {
    path: "/fleet",
    label: "Fleet",
    key: "f",
    hint: "every machine, by position",
    icon: Rows3,
    roles: staff,
    also: ["/machine", "/compare", "/identify", "/labels"],
    bar: true,
  },
  {
    path: "/ask",
    label: "Compatibility",
    key: "i",
    hint: "a kit against the fleet",
    icon: Puzzle,
    roles: staff,
    also: ["/plan", "/kit"],
  },
  {
    path: "/work",
    label: "Work",
    key: "w",
    hint: "work orders, maintenance and faults",
    icon: ListChecks,
    roles: staff,
    also: ["/due", "/tasks", "/faults", "/calibrations", "/safety"],
    bar: true,
  },
  {
    path: "/files",
    label: "Check a file",
    key: "g",
    hint: "on which machine a sliced file prints",
    icon: FileCheck2,
    roles: ["member"],
    also: ["/file"],
    bar: true,
  },
  {
    path: "/faults",
    label: "Faults",
    key: "u",
    hint: "reported, with usual causes",
    icon: TriangleAlert,
    roles: ["member"],
    bar: true,
  },
  {
    path: "/bench",
    label: "Bench",
    key: "h",
    hint: "the sums of the trade",
    icon: Calculator,
    roles: staff,
    bar: true,
  },
  {
    path: "/builds",
    label: "Firmware",
    key: "g",
    hint: "builds, and where each runs",
    icon: CircuitBoard,
    roles: staff,
    also: ["/build", "/file", "/files", "/drift", "/carry-over", "/words"],
  },
  {
    path: "/parts",
    label: "Stores",
    key: "p",
    hint: "parts, orders, suppliers, the catalogue",
    icon: PackageOpen,
    roles: staff,
    also: ["/part", "/spares", "/catalogue", "/purchases", "/purchase", "/lot"],
  },
];

/** The places where somebody of a role works. */
export function placesOf(role: Role): readonly Place[] {
  return every.filter((p) => p.roles.includes(role));
}

/** Where the day of a role starts. */
export function startOf(role: Role): string {
  return { member: "/use", technician: "/today", lead: "/fleet" }[role];
}

/** Whether an address belongs to a place. */
export function isIn(place: Place, path: string): boolean {
  return [place.path, ...(place.also ?? [])].some((p) => path === p || path.startsWith(`${p}/`));
}

/** Keys that act everywhere, besides the places' own. */
export const otherKeys = [
  { key: "/", label: "Go to any machine, kit or order", roles: all },
  { key: "x", label: "Maintenance", roles: staff },
  { key: "k", label: "Calendar", roles: staff },
  { key: "v", label: "Weeks ahead", roles: staff },
  { key: "u", label: "Faults", roles: staff },
  { key: "c", label: "Catalogue", roles: staff },
  { key: "b", label: "Import", roles: staff },
  { key: "n", label: "New machine", roles: staff },
  { key: "a", label: "Inspect a machine or a bay", roles: staff },
  { key: "r", label: "Report a fault", roles: all },
  { key: "m", label: "Compare two machines", roles: staff },
  { key: "t", label: "Light or dark", roles: all },
  { key: "?", label: "This list", roles: all },
  { key: "↑ ↓", label: "Along the rows of a table; Enter opens", roles: all },
  { key: "Esc", label: "Close a panel", roles: all },
] as const;
