/** The places of the application, each with its single key. */
export const places = [
  { path: "/", label: "Fleet", key: "f", hint: "every machine, by slot" },
  { path: "/ask", label: "Does it fit?", key: "i", hint: "a kit against the fleet" },
  { path: "/work", label: "Work", key: "w", hint: "orders open and done" },
  { path: "/due", label: "Maintenance", key: "x", hint: "maintenance by urgency" },
  { path: "/faults", label: "Faults", key: "u", hint: "reported, with usual causes" },
  { path: "/parts", label: "Parts", key: "p", hint: "where each is, and whom to distrust" },
  { path: "/catalogue", label: "Catalogue", key: "c", hint: "models, kinds, traits, slots" },
  { path: "/import", label: "Import", key: "b", hint: "registers, meters, catalogues, records" },
] as const;

/** Keys that act everywhere, besides the places' own. */
export const otherKeys = [
  { key: "/", label: "Go to any machine, kit or order" },
  { key: "n", label: "New machine" },
  { key: "a", label: "Find out: identify a machine or a bay" },
  { key: "r", label: "Report a fault" },
  { key: "m", label: "Compare two machines" },
  { key: "t", label: "Light or dark" },
  { key: "?", label: "This list" },
  { key: "↑ ↓", label: "Along the rows of a table; Enter opens" },
  { key: "Esc", label: "Close a panel" },
] as const;
