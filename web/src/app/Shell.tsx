import { useMemo, useState } from "react";
import { Outlet, useNavigate } from "react-router";
import { usePhotoOutbox } from "../ui/photos/usePhotoOutbox";
import { toggleTheme } from "../ui/preferences";
import { useMayWork, useRole } from "../ui/session";
import { Toasts } from "../ui/toast";
import { BottomBar } from "./BottomBar";
import { DangerBanner } from "./DangerBanner";
import { Head } from "./Head";
import { Help } from "./Help";
import { placesOf } from "./navigation";
import { Offline } from "./Offline";
import { Palette } from "./Palette";
import { useKeys } from "./useKeys";

export function Shell() {
  const go = useNavigate();
  const role = useRole();
  const mayWork = useMayWork();
  const places = placesOf(role);
  const [palette, setPalette] = useState(false);
  const [help, setHelp] = useState(false);
  const keys = useMemo(() => {
    const acts: Record<string, () => void> = {
      "/": () => setPalette(true),
      "?": () => setHelp(true),
      t: toggleTheme,
      r: () => go("/faults?report=1"),
    };
    const staff = {
      n: "/machine/new",
      a: "/identify",
      m: "/compare",
      x: "/due",
      k: "/calendar",
      v: "/weeks",
      u: "/faults",
      c: "/catalogue",
      b: "/import",
    };
    for (const p of places) acts[p.key] = () => go(p.path);
    if (mayWork) for (const [key, path] of Object.entries(staff)) acts[key] = () => go(path);
    return acts;
  }, [go, places, mayWork]);
  useKeys(keys);
  usePhotoOutbox();

  return (
    <div className="min-h-dvh max-sm:pb-20">
      <a href="#page" className="absolute -top-20 left-2 z-50 bg-leaf px-4 py-2 text-ink focus:top-2">
        Skip to the page
      </a>
      <Head places={places} onSearch={() => setPalette(true)} onHelp={() => setHelp(true)} />
      <Offline />
      <DangerBanner />
      <main id="page" tabIndex={-1} className="mx-auto max-w-[112rem] px-4 py-4 outline-none lg:px-8">
        <Outlet />
      </main>
      <BottomBar places={places} />
      <Palette open={palette} onOpenChange={setPalette} places={places} />
      <Help open={help} onOpenChange={setHelp} places={places} />
      <Toasts />
    </div>
  );
}
