/** What is watched: the trace, what it is called, its unit, the line at which it stops the test, its colour. */
export const STRIPS = [
  { key: "shunt", title: "current from the pack", unit: "A", line: "amps", colour: "--copper", digits: 1 },
  { key: "posts", title: "voltage at the posts", unit: "V", line: "posts_low", colour: "--positive", digits: 2 },
  { key: "joint", title: "warmest joint, over the air", unit: "K", line: "joint", colour: "--mend-fill", digits: 1 },
  { key: "cell", title: "lowest cell", unit: "V", line: "cell_low", colour: "--holds", digits: 3 },
] as const;
export const BESIDE = [
  { key: "load", title: "load", unit: "W", digits: 0 },
  { key: "end", title: "end of the path", unit: "V", digits: 2 },
  { key: "clamp", title: "clamp", unit: "A", digits: 1 },
  { key: "air", title: "air inside", unit: "°C", digits: 1 },
] as const;

/** What each is called, by its trace. */
export const NAMES: Record<string, string> = Object.fromEntries(
  [...STRIPS, ...BESIDE].map(({ key, title }) => [key, title]),
);
