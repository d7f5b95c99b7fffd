/** How a run is told what to do, and how its figures are written. */
import type { RunCommand } from "../../../api/client";
import { clock } from "../steps";

/** Tell a run what to do; returns whether it was done. */
export type Tell = (body: Partial<RunCommand> & Pick<RunCommand, "command">) => Promise<boolean>;

/** A reading with so many decimals, never a negative zero. */
export const fixed = (value: number, digits: number) => value.toFixed(digits).replace(/^-(0(\.0*)?)$/, "$1");

/** Seconds as minutes, or hours where there are any. */
export const minutes = (seconds: number) =>
  seconds >= 3600 ? clock(seconds) : `${Math.floor(seconds / 60)}:${String(Math.floor(seconds % 60)).padStart(2, "0")}`;

/** How an instrument is, by what is said of it. */
export const HOWS: Record<string, "holds" | "mend" | "stop" | "open"> = {
  found: "holds",
  well: "holds",
  sought: "open",
  lost: "stop",
};
