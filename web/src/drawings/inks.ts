/** Colours for what is drawn by hand on a canvas, which no style sheet reaches: by their roles, anew when the theme is changed. */
import { useEffect, useState } from "react";

export const role = (name: string) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();

/** How an axis of a strip is drawn. */
export const axisInk = () => ({
  stroke: role("--faint"),
  grid: { stroke: role("--rule-soft"), width: 1 },
  ticks: { show: false },
  font: "11px Barlow",
});

/** A number that is another after each change of the theme. */
export function useThemeTurns(): number {
  const [turns, setTurns] = useState(0);
  useEffect(() => {
    const again = () => setTurns((n) => n + 1);
    window.addEventListener("kegcart-theme", again);
    return () => window.removeEventListener("kegcart-theme", again);
  }, []);
  return turns;
}
