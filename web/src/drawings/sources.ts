/** How charging sources are drawn on an axis of hours: their colours, and the stretches in which each may give. */

export const SOURCE_COLOURS: Record<string, string> = {
  mains: "var(--ac)",
  solar: "var(--mend-fill)",
  vehicle: "var(--copper)",
  by_hour: "var(--holds)",
  step_down: "var(--note)",
  station: "var(--note)",
};

export const DAY_H = 24;

/** The stretches of hours of the day, within the 24 from an hour on; two that meet at midnight are one. */
export function stretches(hours: number[][], from: number): (readonly [number, number])[] {
  const to = from + DAY_H;
  return hours
    .flatMap(([a, b]) => [0, DAY_H].map((turn) => [Math.max(a! + turn, from), Math.min(b! + turn, to)] as const))
    .filter(([x0, x1]) => x1 > x0)
    .sort((one, other) => one[0] - other[0])
    .reduce<(readonly [number, number])[]>((all, [x0, x1]) => {
      const last = all.at(-1);
      return last && x0 <= last[1] ? [...all.slice(0, -1), [last[0], Math.max(last[1], x1)]] : [...all, [x0, x1]];
    }, []);
}
