import { useMemo, useState } from "react";
import { Link, NavLink, Outlet, useNavigate } from "react-router";
import { Toasts } from "../parts/toast";
import { Help } from "./Help";
import { useKeys } from "./keys";
import { Palette } from "./Palette";
import { places } from "./places";
import { useSession, useSignOut } from "./session";
import { toggleTheme } from "./theme";

export function Shell() {
  const go = useNavigate();
  const session = useSession();
  const signOut = useSignOut();
  const [palette, setPalette] = useState(false);
  const [help, setHelp] = useState(false);
  const keys = useMemo(() => {
    const all: Record<string, () => void> = {
      "/": () => setPalette(true),
      "?": () => setHelp(true),
      t: toggleTheme,
      n: () => go("/machine/new"),
    };
    for (const p of places) all[p.key] = () => go(p.path);
    return all;
  }, [go]);
  useKeys(keys);

  return (
    <div className="flex min-h-dvh flex-col lg:flex-row">
      <a href="#page" className="absolute left-2 -top-20 z-50 bg-brass px-4 py-2 text-on-brass focus:top-2">
        Skip to the page
      </a>
      <nav
        aria-label="Places"
        className="no-print flex shrink-0 flex-wrap items-center gap-1 border-line bg-brass px-3 py-2 text-on-brass lg:sticky lg:top-0 lg:h-dvh lg:w-48 lg:flex-col lg:flex-nowrap lg:items-stretch lg:gap-0 lg:px-0 lg:py-5 dark:bg-leaf dark:text-ink dark:lg:border-r"
      >
        <Link to="/" className="mr-3 px-2 text-xl font-extrabold tracking-tight lg:mr-0 lg:mb-6 lg:px-5 lg:text-2xl">
          Wardifex
        </Link>
        {places.map((p) => (
          <NavLink
            key={p.path}
            to={p.path}
            end={p.path === "/"}
            className={({ isActive }) =>
              `flex min-h-11 items-center justify-between gap-3 rounded-sm px-3 font-semibold lg:rounded-none lg:px-5 ${isActive ? "bg-leaf text-ink lg:-mr-px dark:bg-wash" : "hover:bg-black/20"}`
            }
          >
            {p.label}
            <kbd className="hidden font-mono text-sm opacity-80 lg:inline">{p.key}</kbd>
          </NavLink>
        ))}
        <div className="hidden flex-1 lg:block" />
        <button
          type="button"
          onClick={() => setPalette(true)}
          className="min-h-11 px-3 text-left hover:bg-black/20 lg:px-5"
        >
          Go to … <kbd className="font-mono text-sm opacity-80">/</kbd>
        </button>
        <button
          type="button"
          onClick={() => setHelp(true)}
          className="min-h-11 px-3 text-left hover:bg-black/20 lg:px-5"
        >
          Keys <kbd className="font-mono text-sm opacity-80">?</kbd>
        </button>
        <div className="px-3 text-sm lg:mt-3 lg:border-t lg:border-current/30 lg:px-5 lg:pt-3">
          <div className="font-semibold">{session.name}</div>
          <div className="opacity-90">{session.role}</div>
          <button type="button" onClick={signOut} className="min-h-10 underline underline-offset-4">
            Sign out
          </button>
        </div>
      </nav>
      <main id="page" tabIndex={-1} className="min-w-0 flex-1 px-4 py-5 outline-none lg:px-8">
        <Outlet />
      </main>
      <Palette open={palette} onOpenChange={setPalette} />
      <Help open={help} onOpenChange={setHelp} />
      <Toasts />
    </div>
  );
}
