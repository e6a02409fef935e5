import { NavLink } from "react-router";

/** The pages of one place, side by side. */
export function SubPlaces({ label, pages }: { label: string; pages: readonly (readonly [string, string])[] }) {
  return (
    <nav aria-label={label} className="no-print mb-3 flex flex-wrap gap-x-1 border-b-2 border-line">
      {pages.map(([name, path]) => (
        <NavLink
          key={path}
          to={path}
          end
          className={({ isActive }) =>
            `-mb-0.5 flex min-h-11 items-center border-b-4 px-3 font-semibold ${isActive ? "border-accent" : "border-transparent text-dim hover:border-line"}`
          }
        >
          {name}
        </NavLink>
      ))}
    </nav>
  );
}

export const workPages = [
  ["Work orders", "/work"],
  ["Maintenance", "/due"],
  ["Calibrations and proofs", "/calibrations"],
  ["Safety file", "/safety"],
  ["Faults", "/faults"],
] as const;
export const dayPages = [
  ["Today", "/today"],
  ["Calendar", "/calendar"],
  ["Weeks ahead", "/weeks"],
  ["Reliability", "/reliability"],
] as const;
export const storePages = [
  ["Parts and suppliers", "/parts"],
  ["Spares", "/spares"],
  ["Orders and deliveries", "/purchases"],
  ["Catalogue", "/catalogue"],
] as const;
export const firmwarePages = [
  ["Builds", "/builds"],
  ["Files", "/files"],
  ["Settings that disagree", "/drift"],
  ["New version", "/carry-over"],
  ["Words of settings", "/words"],
] as const;
