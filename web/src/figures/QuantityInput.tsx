import { useId } from "react";
import { TypedInput, WhyNot } from "./TypedInput";
import { useTyped } from "./typed";
import { useShown } from "./units";

interface Props {
  /** JSON pointer of the decision. */
  pointer: string;
  label: string;
  /** The unit in which it is kept; it is shown and typed in the builder's. */
  unit?: string;
  /** Empty means null: auto, or typical. */
  optional?: boolean;
  /** What stands when the field is empty. */
  placeholder?: string;
  /** How the stored value reads; plain by default. */
  show?: (value: unknown) => string;
  /** Inside a table the label is only for readers of screens. */
  cell?: boolean;
  /** What is sent for what was typed. */
  read?: (typed: string) => unknown;
  /** Whether the unit stands behind the value, in the field itself. */
  inside?: boolean;
  /** It is an entry of a collection, which may not be there yet. */
  entry?: boolean;
}

/** A share as people read it. */
export const percent = (value: unknown) =>
  typeof value === "number" ? `${Number((value * 100).toPrecision(4))} %` : String(value ?? "");

const plain = (value: unknown) =>
  value === null || value === undefined
    ? ""
    : typeof value === "number"
      ? String(Number(value.toPrecision(6)))
      : String(value);

/**
 * A field that is typed as people write: `90cm`, `1.2k`, `12,5`. It takes effect at once.
 * What cannot be read stays in the field with the reason beside it, and the last good value stands.
 */
export function QuantityInput({
  pointer,
  label,
  unit,
  optional,
  placeholder,
  show = plain,
  cell,
  read,
  inside,
  entry,
}: Props) {
  const shown = useShown(unit);
  const typed = useTyped(
    pointer,
    label,
    (text) => (optional && text.trim() === "" ? null : read ? read(text) : shown.sent(text)),
    (value) => {
      if (typeof value !== "number") return show(value);
      return `${show(shown.to(value))}${inside ? ` ${shown.unit}` : ""}`;
    },
    unit,
    entry ? "add" : "replace",
  );
  const id = useId();

  const input = (
    <TypedInput
      id={id}
      typed={typed}
      className={cell ? "cell-input" : undefined}
      placeholder={placeholder}
      aria-label={cell ? label : undefined}
    />
  );
  const reason = <WhyNot id={id} typed={typed} otherwise={placeholder || "auto"} />;
  if (cell) {
    return (
      <>
        {input}
        {reason}
      </>
    );
  }
  return (
    <label className="field" htmlFor={id}>
      <span className="name">{label}</span>
      <span className="with-unit">
        {input}
        {shown.unit && !inside && <span className="unit">{shown.unit}</span>}
      </span>
      {reason}
    </label>
  );
}
