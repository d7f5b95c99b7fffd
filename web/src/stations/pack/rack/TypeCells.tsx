import { useRef, useState, type KeyboardEvent } from "react";
import type { Pack } from "../../../api/client";
import { useDraft } from "../../../design/browser";
import { useOptions, useReference } from "../../../figures/reference";
import { following, rackQueue, useWaiting, type Typed } from "./queue";

const FIELDS = ["label", "capacity", "resistance", "voltage"] as const;
type Field = (typeof FIELDS)[number];
type Draft = Record<Field, string>;
const EMPTY: Draft = { label: "", capacity: "", resistance: "", voltage: "" };

/** What was half typed, as the browser kept it. */
function readDraft(kept: string | null): Draft {
  try {
    const found: unknown = JSON.parse(kept ?? "{}");
    const text = (field: Field) => {
      const value: unknown = typeof found === "object" && found !== null ? Reflect.get(found, field) : "";
      return typeof value === "string" ? value : "";
    };
    return {
      label: text("label"),
      capacity: text("capacity"),
      resistance: text("resistance"),
      voltage: text("voltage"),
    };
  } catch {
    return EMPTY;
  }
}

/** A number as people type it, with the unit they may write behind it; NaN where it cannot be read. */
function read(text: string, units: Record<string, number>): number | null {
  const typed = text.trim().toLowerCase().replace(",", ".");
  if (!typed) return null;
  const match = /^(\d*\.?\d+)\s*([a-zωΩ]*)$/.exec(typed);
  if (!match) return NaN;
  const scale = match[2] ? units[match[2].replace("Ω", "ω")] : 1;
  return scale === undefined ? NaN : Number((Number(match[1]) * scale).toPrecision(8));
}

/** Capacities over a hundred without a unit are milliampere-hours: no cell of that size is held in one hand. */
function capacityOf(text: string): number | null {
  const value = read(text, { ah: 1, mah: 0.001 });
  return value !== null && value > 500 && /^[\d.,\s]+$/.test(text) ? value / 1000 : value;
}

/** What a field takes; `most` is the greatest figure that the rack takes. */
const problemOf: Record<Field, (most: number) => string> = {
  label: () => "needs a label",
  capacity: (most) => `needs a capacity in Ah or mAh up to ${most} Ah, as 2.31 or 2310`,
  resistance: (most) => `needs a resistance in mΩ up to ${most} mΩ, as 42.5`,
  voltage: (most) => `needs a voltage up to ${most} V, as 4.11`,
};
const STORED_AS: Record<Field, string> = {
  label: "label",
  capacity: "capacity_ah",
  resistance: "resistance_mohm",
  voltage: "resting_v",
};

interface Props {
  pack: Pack;
  nextLabel: string;
}

/** Cells typed one after the other: Enter after each value, the label counts up by itself. */
export function TypeCells({ pack, nextLabel }: Props) {
  const waiting = useWaiting().filter((w) => "cell" in w);
  const last = waiting.at(-1)?.cell.label;
  const [kept, setKept] = useDraft("rack/new-cell");
  const draft = readDraft(kept);
  const setDraft = (next: Draft) => setKept(Object.values(next).some(Boolean) ? JSON.stringify(next) : null);
  const ways = useOptions("Cell.resistance_by");
  const [by, setBy] = useState<Typed["resistance_by"]>("1khz");
  const [format, setFormat] = useState("");
  const [rated, setRated] = useState("");
  const [bad, setBad] = useState<Field | null>(null);
  const inputs = useRef<Partial<Record<Field, HTMLInputElement | null>>>({});
  const shownLabel = draft.label || (last ? following(last) : nextLabel);
  const focus = (field: Field) => inputs.current[field]?.focus();

  const limits = useReference()?.cell_limits;
  const most = (field: Field) => limits?.[STORED_AS[field]] ?? Infinity;

  const put = () => {
    const capacity = capacityOf(draft.capacity);
    const resistance = read(draft.resistance, { mω: 1, mohm: 1, ω: 1000, ohm: 1000 });
    const voltage = read(draft.voltage, { v: 1, mv: 0.001 });
    const figures = { capacity, resistance, voltage };
    const unfit = (["capacity", "resistance", "voltage"] as const).find((f) => !((figures[f] ?? 0) <= most(f)));
    const empty = capacity === null && resistance === null && voltage === null;
    const wrong: Field | null = !shownLabel.trim() ? "label" : (unfit ?? (empty ? "capacity" : null));
    setBad(wrong);
    if (wrong) {
      focus(wrong);
      return;
    }
    rackQueue.add({
      label: shownLabel.trim(),
      capacity_ah: capacity,
      resistance_mohm: resistance,
      resting_v: voltage,
      format,
      chemistry: pack.chemistry,
      rated_ah: capacityOf(rated) || null,
      resistance_by: by,
    });
    setDraft({ ...EMPTY, label: following(shownLabel.trim()) });
    focus("capacity");
  };

  const key = (event: KeyboardEvent, field: Field) => {
    if (event.key !== "Enter") return;
    event.preventDefault();
    const next = FIELDS[FIELDS.indexOf(field) + 1];
    if (next) focus(next);
    else put();
  };

  const input = (field: Field, name: string, unit: string, value: string, set: (text: string) => void) => (
    <label className="field" htmlFor={`type-${field}`}>
      <span className="name">{name}</span>
      <span className="with-unit">
        <input
          id={`type-${field}`}
          ref={(element) => {
            inputs.current[field] = element;
          }}
          data-new={field === "capacity" ? "" : undefined}
          className={`form-control form-control-sm${bad === field ? " bad" : ""}`}
          inputMode={field === "label" ? "text" : "decimal"}
          autoComplete="off"
          aria-invalid={bad === field}
          value={value}
          onChange={(event) => {
            set(event.target.value);
            if (bad === field) setBad(null);
          }}
          onKeyDown={(event) => key(event, field)}
        />
        {unit && <span className="unit">{unit}</span>}
      </span>
      {bad === field && (
        <span className="problem" role="alert">
          {problemOf[field](most(field))}
        </span>
      )}
    </label>
  );
  const of = (field: Field) => (text: string) => setDraft({ ...draft, [field]: text });
  return (
    <section aria-label="Type measured cells" className="type-cells">
      <div className="type-row">
        {input("label", "Cell", "", shownLabel, of("label"))}
        {input("capacity", "Capacity", "Ah", draft.capacity, of("capacity"))}
        {input("resistance", "Resistance", "mΩ", draft.resistance, of("resistance"))}
        {input("voltage", "Resting voltage", "V", draft.voltage, of("voltage"))}
      </div>
      <div className="type-row faint">
        <label className="field inline" htmlFor="type-format">
          <span className="name">format</span>
          <input
            id="type-format"
            className="form-control form-control-sm"
            value={format}
            placeholder="18650"
            onChange={(event) => setFormat(event.target.value)}
          />
        </label>
        <label className="field inline" htmlFor="type-rated">
          <span className="name">rated</span>
          <input
            id="type-rated"
            className="form-control form-control-sm"
            value={rated}
            placeholder="2.6 Ah"
            onChange={(event) => setRated(event.target.value)}
          />
        </label>
        <label className="field inline" htmlFor="type-by">
          <span className="name">resistance</span>
          <select
            id="type-by"
            className="form-select form-select-sm"
            value={by}
            onChange={(event) => setBy(event.target.value as Typed["resistance_by"])}
          >
            {ways.map((w) => (
              <option key={String(w.value)} value={String(w.value)}>
                {w.label}
              </option>
            ))}
          </select>
        </label>
        <span>Enter goes on; after the voltage the cell is put on the rack.</span>
      </div>
      {waiting.length > 0 && (
        <ul className="waiting" aria-label="Not stored yet">
          {waiting.map((w, i) => (
            <li key={w.cell.label + i} className={w.problem ? "refused" : ""}>
              <strong>{w.cell.label}</strong> {w.cell.capacity_ah ?? "–"} Ah, {w.cell.resistance_mohm ?? "–"} mΩ,{" "}
              {w.cell.resting_v ?? "–"} V: {w.problem || rackQueue.trouble?.message || "on its way"}
              {w.problem && (
                <button
                  type="button"
                  className="btn btn-bare btn-sm"
                  onClick={() => {
                    const { cell } = w;
                    rackQueue.drop(w);
                    setDraft({
                      label: cell.label,
                      capacity: String(cell.capacity_ah ?? ""),
                      resistance: String(cell.resistance_mohm ?? ""),
                      voltage: String(cell.resting_v ?? ""),
                    });
                    focus("label");
                  }}
                >
                  put right
                </button>
              )}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
