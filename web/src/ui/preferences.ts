import { useSyncExternalStore } from "react";

/** How this browser shows the application: kept here, not with the account. */
type Preferences = {
  theme: "auto" | "light" | "dark";
  density: "auto" | "compact" | "roomy";
  shortcuts: "on" | "off";
};

const KEY = "wardifex-preferences";
const usual: Preferences = { theme: "auto", density: "auto", shortcuts: "on" };

let now = read();
const listeners = new Set<() => void>();
const darkScreen = matchMedia("(prefers-color-scheme: dark)");
const finger = matchMedia("(pointer: coarse)");
/** Pages on which a job runs are roomy whatever points at them. */
let jobs = 0;

function read(): Preferences {
  const theme = localStorage.getItem("wardifex-theme"); // as earlier versions kept it
  const before: Partial<Preferences> = theme === "light" || theme === "dark" ? { theme } : {};
  try {
    return { ...usual, ...before, ...JSON.parse(localStorage.getItem(KEY) ?? "{}") };
  } catch {
    return { ...usual, ...before };
  }
}

function apply() {
  const { theme, density } = now;
  const dark = theme === "auto" ? darkScreen.matches : theme === "dark";
  const roomy = density === "auto" ? finger.matches || jobs > 0 : density === "roomy";
  document.documentElement.dataset.theme = dark ? "dark" : "light";
  document.documentElement.dataset.density = roomy ? "roomy" : "compact";
}

/** Shows the application as it is preferred, now and when the screen or the pointer changes. */
export function startPreferences() {
  darkScreen.addEventListener("change", apply);
  finger.addEventListener("change", apply);
  apply();
}

export function setPreference<K extends keyof Preferences>(key: K, value: Preferences[K]) {
  now = { ...now, [key]: value };
  localStorage.setItem(KEY, JSON.stringify(now));
  apply();
  for (const l of listeners) l();
}

export function toggleTheme() {
  setPreference("theme", document.documentElement.dataset.theme === "dark" ? "light" : "dark");
}

export function usePreferences(): Preferences {
  return useSyncExternalStore(subscribe, () => now);
}

export function preferences(): Preferences {
  return now;
}

function subscribe(changed: () => void) {
  listeners.add(changed);
  return () => listeners.delete(changed);
}

/** Keeps the page roomy while a job runs on it; gives what ends it. */
export function beginJob() {
  jobs++;
  apply();
  return () => {
    jobs--;
    apply();
  };
}
