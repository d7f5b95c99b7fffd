import { useDesign, useStore } from "../design/store";
import { usePending } from "./typed";

const WEEK = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"];

export const dayName = (day: number, weekdays: boolean, short = false) =>
  weekdays ? (short ? WEEK[day]!.slice(0, 2) : WEEK[day]!) : short ? String(day + 1) : `day ${day + 1}`;

/** On which days of the pattern something is on: a load, or what charges. */
export function DaysOn({ at, name, says }: { at: string; name: string; says: string }) {
  const store = useStore();
  const { design } = useDesign();
  const { days, weekdays } = design.document.loads;
  const all = Array.from({ length: days }, (_, i) => i + 1);
  const waits = usePending(`${at}/days`).value as number[] | null | undefined;
  const on = waits ?? all;
  const toggle = (day: number) => {
    const next = on.includes(day) ? on.filter((d) => d !== day) : [...on, day].sort((a, b) => a - b);
    const every = all.every((d) => next.includes(d));
    store.put(`${at}/days`, every ? null : next, `${name}: days changed`);
  };
  return (
    <div className="field mt-2" role="group" aria-label={`Days on which it ${says.split(" ")[0]!.toLowerCase()}`}>
      <span className="name">{says}</span>
      <div className="tabs mb-0">
        {all.map((day) => (
          <button
            key={day}
            type="button"
            className="tab tight"
            aria-pressed={on.includes(day)}
            aria-label={dayName(day - 1, weekdays)}
            onClick={() => toggle(day)}
          >
            {dayName(day - 1, weekdays, true)}
          </button>
        ))}
      </div>
    </div>
  );
}
