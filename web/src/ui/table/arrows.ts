/** Moves the focus along elements marked data-row inside the event's container. */
export function alongRows(e: React.KeyboardEvent<HTMLElement>) {
  if (e.key !== "ArrowDown" && e.key !== "ArrowUp") return;
  const rows = [...e.currentTarget.querySelectorAll<HTMLElement>("[data-row]")];
  const at = rows.indexOf(document.activeElement as HTMLElement);
  const next = rows[at + (e.key === "ArrowDown" ? 1 : -1)];
  if (next) {
    e.preventDefault();
    next.focus();
  }
}

/** Moves the focus over the cells of a table, marked data-cell, by the arrow keys. */
export function alongCells(e: React.KeyboardEvent<HTMLElement>) {
  const step = { ArrowLeft: [0, -1], ArrowRight: [0, 1], ArrowUp: [-1, 0], ArrowDown: [1, 0] }[e.key];
  const cell = (document.activeElement as HTMLElement).closest("td");
  if (!step || !cell) return;
  const row = cell.parentElement as HTMLTableRowElement;
  const [down = 0, right = 0] = step;
  const rows = [...(row.parentElement as HTMLTableSectionElement).rows];
  const next = rows[rows.indexOf(row) + down]?.cells[cell.cellIndex + right]?.querySelector<HTMLElement>("[data-cell]");
  if (next) {
    e.preventDefault();
    next.focus();
  }
}
