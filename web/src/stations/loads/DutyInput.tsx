import { useId } from "react";
import type { Load } from "../../api/client";
import { TypedInput, WhyNot } from "../../figures/TypedInput";
import { useTyped } from "../../figures/typed";

/** The share of the time that a load is on while it is switched on, in percent; empty where it does not cycle. */
export function DutyInput({ id, load, cell }: { id: string; load: Load; cell?: boolean }) {
  const label = `Duty of ${load.name}`;
  const field = useId();
  const typed = useTyped(
    `/loads/items/${id}/cycle`,
    label,
    (text) => (/^\s*(100\s*%?)?\s*$/.test(text) ? null : { duty: text }),
    (cycle) => {
      const { on_min: on, off_min: off } = (cycle ?? {}) as Partial<NonNullable<Load["cycle"]>>;
      return on && off ? `${Number(((on / (on + off)) * 100).toPrecision(3))} %` : "";
    },
  );
  const input = (
    <TypedInput
      id={field}
      typed={typed}
      className={cell ? "cell-input" : undefined}
      placeholder="100 %"
      aria-label={cell ? label : undefined}
    />
  );
  const reason = <WhyNot id={field} typed={typed} otherwise="runs all the time" />;
  if (cell)
    return (
      <>
        {input}
        {reason}
      </>
    );
  return (
    <label className="field" htmlFor={field}>
      <span className="name">Duty, while switched on</span>
      {input}
      {reason}
    </label>
  );
}
