/** The steps of the load test as columns and lists call them. */
export const STEPS: Record<string, string> = {
  zero: "switch open",
  standing: "all off",
  idle: "idle",
  "load-25": "25 %",
  "load-50": "50 %",
  "load-75": "75 %",
  "load-100": "100 %",
  rest: "rest",
  soak: "soak",
  surge: "surge",
  trip: "over-current",
  "run-down": "run-down",
  "rest-empty": "rest when empty",
  recharge: "recharge",
};

/** The lines at which a test is stopped, as they are told when one was reached. */
export const LINES: Record<string, string> = {
  cell_low: "A cell fell to",
  cell_high: "A cell rose to",
  spread: "The cells stood apart by",
  posts_low: "The posts fell to",
  amps: "The current was for a minute",
  joint: "A joint rose over the air by",
  like: "A joint rose over its like by",
  cells: "The cells were at",
};

/** Seconds as hours, minutes and seconds. */
export const clock = (seconds: number) =>
  [Math.floor(seconds / 3600), Math.floor((seconds % 3600) / 60), Math.floor(seconds % 60)]
    .map((n) => String(n).padStart(2, "0"))
    .join(":");

/** A day as `26 Apr 2025`. */
export const calendarDay = (on: Date) => DAY.format(on);
const DAY = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "short", year: "numeric" });
