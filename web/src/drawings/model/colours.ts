import { useSyncExternalStore } from "react";

/** What of the theme's colours the box in three dimensions is drawn with. */
const NAMES = [
  "sheet",
  "ink",
  "faint",
  "rule",
  "rule-soft",
  "paper",
  "copper",
  "copper-light",
  "copper-wash",
  "holds-wash",
  "ac",
  "note",
  "note-wash",
  "stop",
  "stop-wash",
  "mend",
  "mend-wash",
] as const;
export type Colour = (typeof NAMES)[number];
export type Colours = Record<Colour, string>;

const read = () => {
  const style = getComputedStyle(document.documentElement);
  return NAMES.map((name) => style.getPropertyValue(`--${name}`).trim()).join(" ");
};

function changes(again: () => void) {
  window.addEventListener("kegcart-theme", again);
  return () => window.removeEventListener("kegcart-theme", again);
}

export function useColours(): Colours {
  const values = useSyncExternalStore(changes, read).split(" ");
  return Object.fromEntries(NAMES.map((name, n) => [name, values[n]!])) as Colours;
}
