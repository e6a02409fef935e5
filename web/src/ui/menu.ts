/** How menus look, wherever they open. */
export const menuSheet = "z-50 min-w-56 border-2 border-accent bg-leaf py-1 text-ink shadow-xl";
export const menuItem =
  "flex min-h-11 cursor-pointer items-center gap-3 px-4 outline-none data-[highlighted]:bg-wash data-[disabled]:opacity-60";
export const menuLabel = "px-4 pt-2 text-sm text-dim";
export const menuLine = "my-1 h-px bg-line";
