import type { Load } from "../../api/client";
import { QuantityInput } from "../../figures/QuantityInput";

const shown = (cycle: unknown) => {
  const { on_min: on, off_min: off } = (cycle ?? {}) as Partial<NonNullable<Load["cycle"]>>;
  return on && off ? `${Number(((on / (on + off)) * 100).toPrecision(3))} %` : "";
};

/** The share of the time that a load is on while it is switched on, in percent; empty where it does not cycle. */
export function DutyInput({ id, load, cell }: { id: string; load: Load; cell?: boolean }) {
  return (
    <QuantityInput
      cell={cell}
      optional
      pointer={`/loads/items/${id}/cycle`}
      label={cell ? `Duty of ${load.name}` : "Duty, while switched on"}
      placeholder="100 %"
      show={shown}
      read={(text) => (/^\s*100\s*%?\s*$/.test(text) ? null : { duty: text })}
    />
  );
}
