import { keep, kept } from "../design/browser";

/** Light or dark: the system's, unless the builder chose. */
export type Theme = "light" | "dark";

const KEY = "kegcart.theme";

export function storedTheme(): Theme {
  const stored = kept(KEY);
  if (stored === "light" || stored === "dark") return stored;
  return window.matchMedia("(prefers-color-scheme: dark)").matches ? "dark" : "light";
}

export function applyTheme(theme: Theme) {
  document.documentElement.dataset.bsTheme = theme;
}

export function chooseTheme(theme: Theme) {
  keep(KEY, theme);
  applyTheme(theme);
  window.dispatchEvent(new Event("kegcart-theme"));
}
