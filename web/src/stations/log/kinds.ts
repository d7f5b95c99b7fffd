/** What can be entered into the log: how each kind is called, and what is typed of it. */
import type { Moment } from "../../api/client";

export type EntryKind = Exclude<Moment["kind"], "step" | "change" | "test">;

export interface Typed {
  /** The field of the entry. */
  name: string;
  label: string;
  /** "place": a part of the design; "fault": one that is open; "visit": one that is owed; "part": one of which a figure can be measured, and
   * "figure": which of its. */
  control: "quantity" | "text" | "place" | "fault" | "visit" | "part" | "figure";
  unit?: string;
  placeholder?: string;
  optional?: boolean;
}

const PLACE: Typed = { name: "place", label: "At", control: "place", optional: true };
const CELLS: Typed = { name: "cell_c", label: "Cells at", control: "quantity", unit: "°C", optional: true };

/** The kinds in the order in which they are offered: what each is called, what it asks for, and what it is good for. */
export const KINDS: Record<EntryKind, { name: string; fields: Typed[]; says: string }> = {
  use: {
    name: "use",
    fields: [{ name: "energy_wh", label: "Taken out", control: "quantity", unit: "Wh", placeholder: "1.2 kWh" }],
    says: "As the meter counts it, from one charge to the next. The cells' wear is worked out from it.",
  },
  recharge: {
    name: "recharge",
    fields: [{ name: "energy_wh", label: "Put in", control: "quantity", unit: "Wh", placeholder: "1.3 kWh" }],
    says: "What went in, by the meter of the station or of the socket.",
  },
  fault: {
    name: "fault",
    fields: [{ name: "what", label: "What is wrong", control: "text" }, PLACE],
    says: "It stays open, here and in the verdict, until a mend names it.",
  },
  mend: {
    name: "mend",
    fields: [
      { name: "what", label: "What was done", control: "text" },
      { name: "fault", label: "Ends the fault", control: "fault", optional: true },
      PLACE,
    ],
    says: "Main fuse out and switch off before anything is opened; what was mended is measured again.",
  },
  swap: {
    name: "replaced",
    fields: [
      { name: "was", label: "Came out", control: "text" },
      { name: "now", label: "Went in", control: "text" },
      PLACE,
    ],
    says: "A part or a cell: what came out keeps its history here.",
  },
  capacity: {
    name: "capacity test",
    fields: [{ name: "capacity_ah", label: "From full to the first cut-off", control: "quantity", unit: "Ah" }, CELLS],
    says: "Full first, to the tail of the charge; an even load; the amp-hours by the shunt. All tests are brought to one temperature.",
  },
  resistance: {
    name: "resistance",
    fields: [
      { name: "resistance_mohm", label: "At the posts", control: "quantity", unit: "mΩ", placeholder: "3.8" },
      CELLS,
    ],
    says: "The drop at the pack's own posts over the step of current, after the same time each year.",
  },
  measured: {
    name: "measured",
    fields: [
      { name: "place", label: "Of", control: "part" },
      { name: "field", label: "Which figure", control: "figure" },
      { name: "value", label: "Measured", control: "quantity", placeholder: "14" },
    ],
    says: "What its sheet does not say, or says too well. It is offered for the next build, and for this one.",
  },
  visit: {
    name: "visit",
    fields: [{ name: "visit", label: "Which", control: "visit" }],
    says: "What was found goes into the remark; what is wrong is a fault of its own.",
  },
  photo: {
    name: "photo",
    fields: [{ name: "what", label: "What it shows", control: "text", optional: true }, PLACE],
    says: "It is turned upright and made smaller; where it was taken is left out of it.",
  },
  note: {
    name: "note",
    fields: [{ name: "what", label: "What is worth keeping", control: "text" }],
    says: "Why something was changed, what was learned, what the next one should have.",
  },
};

/** What is shown of the time line. */
export const FILTERS: { name: string; kinds: Moment["kind"][] }[] = [
  { name: "all", kinds: [] },
  { name: "steps", kinds: ["step"] },
  { name: "use and recharge", kinds: ["use", "recharge"] },
  { name: "faults and mends", kinds: ["fault", "mend", "swap"] },
  { name: "tests", kinds: ["test", "capacity", "resistance", "measured"] },
  { name: "visits", kinds: ["visit"] },
  { name: "photos", kinds: ["photo"] },
  { name: "changes, notes", kinds: ["change", "note"] },
];

/** The day of today here, as it is sent. */
export function today(): string {
  const now = new Date();
  const two = (n: number) => String(n).padStart(2, "0");
  return `${now.getFullYear()}-${two(now.getMonth() + 1)}-${two(now.getDate())}`;
}

const MONTH = new Intl.DateTimeFormat("en-US", { month: "short", timeZone: "UTC" });

/** A day as the core writes it: 4 May 2026. */
export function dayText(on: string): string {
  if (!on) return "";
  const day = new Date(`${on}T00:00:00Z`);
  return `${day.getUTCDate()} ${MONTH.format(day)} ${day.getUTCFullYear()}`;
}

/** Whole days from today to a day. */
export const daysTo = (on: string) => Math.round((Date.parse(on) - Date.parse(today())) / 86_400_000);
