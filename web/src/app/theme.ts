const KEY = "wardifex-theme";

export function applyTheme() {
  const kept = localStorage.getItem(KEY);
  const dark = kept ? kept === "dark" : matchMedia("(prefers-color-scheme: dark)").matches;
  document.documentElement.dataset.theme = dark ? "dark" : "light";
}

export function toggleTheme() {
  localStorage.setItem(KEY, document.documentElement.dataset.theme === "dark" ? "light" : "dark");
  applyTheme();
}
