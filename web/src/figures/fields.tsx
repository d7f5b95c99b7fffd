import type { Operation } from "../api/client";
import { useId } from "react";
import { useStore } from "../design/store";
import { useOptions } from "./reference";
import { usePending, useTyped } from "./typed";

interface Option {
  value: string | number | boolean;
  label: string;
}

/** A choice from a list: the core's, by its name, or `options` of what this design holds. `empty` names what null means. */
export function SelectField(props: {
  pointer: string;
  label: string;
  list?: string;
  options?: Option[];
  empty?: string;
  cell?: boolean;
  /** What else is decided with a choice. */
  along?: (value: unknown) => Operation[];
}) {
  const { pointer, label, list = "", empty, cell, along } = props;
  const published = useOptions(list);
  const options = props.options ?? published;
  const store = useStore();
  const { value, problem } = usePending(pointer);
  const id = useId();
  const reason = problem && (
    <span className="problem" role="alert">
      {problem}
    </span>
  );
  const select = (
    <select
      id={id}
      className={cell ? "cell-input" : "form-select form-select-sm"}
      aria-label={cell ? label : undefined}
      value={value === null || value === undefined ? "" : String(value)}
      onChange={(event) => {
        const option = options.find((o) => String(o.value) === event.target.value);
        const value = option?.value ?? null;
        const more = along?.(value) ?? [];
        store.change(
          [{ op: "replace", path: pointer, value }, ...more],
          `${label}: ${option?.label ?? empty ?? "auto"}`,
        );
      }}
    >
      {empty !== undefined && <option value="">{empty}</option>}
      {options.map((option) => (
        <option key={String(option.value)} value={String(option.value)}>
          {option.label}
        </option>
      ))}
    </select>
  );
  if (cell)
    return (
      <>
        {select}
        {reason}
      </>
    );
  return (
    <label className="field" htmlFor={id}>
      <span className="name">{label}</span>
      {select}
      {reason}
    </label>
  );
}

/** Yes or no. */
export function CheckField({
  pointer,
  label,
  on = true,
  off = false,
}: {
  pointer: string;
  label: string;
  on?: unknown;
  off?: unknown;
}) {
  const store = useStore();
  const { value, problem } = usePending(pointer);
  const id = useId();
  return (
    <div className="form-check">
      <input
        id={id}
        type="checkbox"
        className="form-check-input"
        checked={value === on}
        onChange={(event) =>
          store.put(pointer, event.target.checked ? on : off, `${label}: ${event.target.checked ? "yes" : "no"}`)
        }
      />
      <label className="form-check-label" htmlFor={id}>
        {label}
      </label>
      {problem && <span className="problem">{problem}</span>}
    </div>
  );
}

/** Free text. */
export function TextField({ pointer, label, rows }: { pointer: string; label: string; rows?: number }) {
  const id = useId();
  const { field, problem } = useTyped(pointer, label);
  const shared = { id, className: "form-control form-control-sm", ...field };
  return (
    <label className="field" htmlFor={id}>
      <span className="name">{label}</span>
      {rows ? <textarea rows={rows} {...shared} /> : <input {...shared} />}
      {problem && <span className="problem">{problem}</span>}
    </label>
  );
}
