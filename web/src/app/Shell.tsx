import { useMemo, useState } from "react";
import { Link, NavLink, Outlet, useNavigate } from "react-router";
import { Toasts } from "../ui/toast";
import { Help } from "./Help";
import { useKeys } from "./keys";
import { places } from "./navigation";
import { Offline } from "./Offline";
import { Palette } from "./Palette";
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
      a: () => go("/identify"),
      r: () => go("/faults?report=1"),
      m: () => go("/compare"),
    };
    for (const p of places) all[p.key] = () => go(p.path);
    return all;
  }, [go]);
  useKeys(keys);

  return (
    <div className="min-h-dvh">
      <a href="#page" className="absolute -top-20 left-2 z-50 bg-leaf px-4 py-2 text-ink focus:top-2">
        Skip to the page
      </a>
      <header className="no-print flex flex-wrap items-end gap-x-4 bg-accent px-4 pt-2 text-on-accent lg:px-8 dark:bg-leaf dark:text-ink">
        <Link to="/" className="flex min-h-12 items-center gap-3 pb-1 text-2xl font-extrabold tracking-tight">
          <svg width="26" height="26" viewBox="0 0 32 32" aria-hidden="true">
            <path d="M4 10v17h24V10" fill="none" stroke="currentColor" strokeWidth="3.5" />
            <path d="M10 4h12v16H10z" className="fill-[#e0a32e]" />
          </svg>
          Wardifex
        </Link>
        <nav aria-label="Places" className="flex flex-wrap items-end gap-0.5">
          {places.map((p) => (
            <NavLink
              key={p.path}
              to={p.path}
              end={p.path === "/"}
              title={p.hint}
              className={({ isActive }) =>
                `flex min-h-12 items-center border-x-2 border-t-2 px-3 pb-0.5 font-semibold [clip-path:polygon(10px_0,calc(100%-10px)_0,100%_100%,0_100%)] ${isActive ? "border-transparent bg-wall text-ink" : "border-transparent bg-white/12 hover:bg-white/25 dark:bg-wash/60"}`
              }
            >
              {keyed(p.label, p.key)}
            </NavLink>
          ))}
        </nav>
        <div className="ml-auto flex items-center text-[0.95rem]">
          <ToolKey label="Go to any machine, kit or order" sign="/" onClick={() => setPalette(true)} />
          <ToolKey label="Keys and marks" sign="?" onClick={() => setHelp(true)} />
          {session.role === "lead" && (
            <Link to="/record" className="flex min-h-11 items-center px-2 underline underline-offset-4">
              Who did what
            </Link>
          )}
          <span className="px-2" title={`signed in as ${session.role}`}>
            {session.name}
          </span>
          <button type="button" onClick={signOut} className="min-h-11 px-1 underline underline-offset-4">
            Sign out
          </button>
        </div>
      </header>
      <Offline />
      <main id="page" tabIndex={-1} className="mx-auto max-w-[100rem] px-4 py-5 outline-none lg:px-8">
        <Outlet />
      </main>
      <Palette open={palette} onOpenChange={setPalette} />
      <Help open={help} onOpenChange={setHelp} />
      <Toasts />
    </div>
  );
}

function ToolKey({ label, sign, onClick }: { label: string; sign: string; onClick: () => void }) {
  return (
    <button
      type="button"
      aria-label={label}
      title={label}
      onClick={onClick}
      className="grid size-11 place-items-center hover:bg-white/20"
    >
      <kbd className="border border-current/50 px-1.5 font-mono">{sign}</kbd>
    </button>
  );
}

/** A label with its key underlined where it stands in it, or added. */
function keyed(label: string, key: string) {
  const at = label.toLowerCase().indexOf(key);
  if (at < 0)
    return (
      <>
        {label}&nbsp;<span className="font-mono text-sm opacity-80">{key}</span>
      </>
    );
  return (
    <span>
      {label.slice(0, at)}
      <span className="underline decoration-2 underline-offset-4">{label.slice(at, at + 1)}</span>
      {label.slice(at + 1)}
    </span>
  );
}
