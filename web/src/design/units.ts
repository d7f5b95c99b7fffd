/** Lengths, masses and temperatures as the builder has them. The document keeps m, mm, kg and °C; the core writes what it says. */

import customary from "../api/customary.json";

/** A metric unit as US customary has it: its unit, how many of it one is, and from which zero. */
interface Customary {
  unit: string;
  per: number;
  zero: number;
}

const CUSTOMARY: Record<string, Customary> = customary;

/** So many digits tell one decision from the next; more are what converting leaves. */
const DIGITS = 5;

export interface Shown {
  /** The unit to write behind the field. */
  unit: string | undefined;
  /** A stored number as it is shown. */
  to: (value: number) => number;
  /** What is sent for what was typed: a bare number is meant in the unit shown. */
  sent: (typed: string) => string;
}

const BARE = /^\s*[-−+]?(\d+[.,]?\d*|[.,]\d+|(\d+[ -])?\d+\/\d+)\s*$/;

/** How a quantity that is kept in a unit is shown and typed. system: of the brief. */
export function shownIn(system: string | undefined, unit: string | undefined): Shown {
  const own = system === "us" && unit ? CUSTOMARY[unit] : undefined;
  if (!own) return { unit, to: (value) => value, sent: (typed) => typed };
  return {
    unit: own.unit,
    to: (value) => Number((value * own.per + own.zero).toPrecision(DIGITS)),
    sent: (typed) => (BARE.test(typed) ? `${typed.trim()} ${own.unit}` : typed),
  };
}

/** A stored number with its unit, for a sentence: `2 in`, `40 K`. */
export const said = ({ to, unit }: Shown, value: number) => `${Number(to(value).toPrecision(3))} ${unit}`;
