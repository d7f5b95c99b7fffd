import { useId } from "react";
import { WhyNot } from "./TypedInput";
import { useTyped } from "./typed";

const listed = (value: unknown) => (Array.isArray(value) ? value.join("  ") : "");

/** Several figures one after the other, typed or pasted from a table; the core reads them. Empty means none of one's own. */
export function NumbersInput({
  pointer,
  label,
  unit,
  placeholder,
}: {
  pointer: string;
  label: string;
  unit: string;
  placeholder: string;
}) {
  const id = useId();
  const typed = useTyped(pointer, label, (text) => (text.trim() ? text : null), listed);
  return (
    <label className="field wide" htmlFor={id}>
      <span className="name">
        {label}, {unit}
      </span>
      <textarea
        id={id}
        rows={2}
        className={`form-control form-control-sm${typed.problem ? " bad" : ""}`}
        aria-invalid={Boolean(typed.problem)}
        aria-describedby={typed.problem ? `${id}-problem` : undefined}
        placeholder={placeholder}
        spellCheck={false}
        {...typed.field}
        onKeyDown={(event) => event.key === "Escape" && typed.forget()}
      />
      <WhyNot id={id} typed={typed} otherwise={placeholder} />
    </label>
  );
}
