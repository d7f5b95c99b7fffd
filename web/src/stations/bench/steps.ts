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
  "run-down": "run-down",
  "rest-empty": "rest when empty",
  recharge: "recharge",
};
