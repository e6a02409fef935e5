import { Search } from "lucide-react";
import { Link, NavLink, useLocation } from "react-router";
import { Notices } from "./Notices";
import { isIn, type Place } from "./navigation";
import { PersonMenu } from "./PersonMenu";

/** The head of every page: the mark, the places, and the person. On a phone the places are at the bottom. */
export function Head({
  places,
  onSearch,
  onHelp,
}: {
  places: readonly Place[];
  onSearch: () => void;
  onHelp: () => void;
}) {
  return (
    <header className="no-print flex items-end gap-x-4 bg-accent px-4 pt-1.5 text-on-accent lg:px-8 dark:bg-leaf dark:text-ink">
      <Link
        to="/"
        aria-label="Wardifex"
        className="flex min-h-11 items-center gap-2.5 pb-1 text-2xl font-extrabold tracking-tight"
      >
        <Mark />
        <span className="max-lg:hidden">Wardifex</span>
      </Link>
      <nav aria-label="Places" className="flex min-w-0 items-end gap-0.5 max-sm:hidden">
        {places.map((p) => (
          <PlaceTab key={p.path} place={p} />
        ))}
      </nav>
      <div className="ml-auto flex min-h-11 items-center gap-1">
        <button
          type="button"
          aria-label="Go to any machine, kit or order"
          title="Go to any machine, kit or order: /"
          onClick={onSearch}
          className="grid size-11 place-items-center hover:bg-white/20"
        >
          <Search className="size-5" />
        </button>
        <Notices />
        <PersonMenu onHelp={onHelp} />
      </div>
    </header>
  );
}

function Mark() {
  return (
    <svg width="26" height="26" viewBox="0 0 32 32" aria-hidden="true" className="shrink-0">
      <path d="M4 10v17h24V10" fill="none" stroke="currentColor" strokeWidth="3.5" />
      <path d="M10 4h12v16H10z" className="fill-[#e0a32e]" />
    </svg>
  );
}

/** A card of the index: the one that is open stands on the page. */
function PlaceTab({ place }: { place: Place }) {
  const here = isIn(place, useLocation().pathname);
  return (
    <NavLink
      to={place.path}
      title={`${place.hint}: ${place.key}`}
      aria-current={here ? "page" : undefined}
      className={`flex min-h-11 items-center px-3 pb-0.5 font-semibold whitespace-nowrap [clip-path:polygon(9px_0,calc(100%-9px)_0,100%_100%,0_100%)] max-lg:px-2 ${here ? "bg-wall text-ink" : "bg-white/12 hover:bg-white/25 dark:bg-wash/60"}`}
    >
      {place.label}
    </NavLink>
  );
}
