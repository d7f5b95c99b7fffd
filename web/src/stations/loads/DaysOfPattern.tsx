import { useDraft } from "../../design/browser";
import { useDesign, useStore } from "../../design/store";
import { dayName } from "../../figures/DaysOn";
import { QuantityInput } from "../../figures/QuantityInput";

type Pattern = "daily" | "event" | "week" | "trip";
const NAMES: Record<Pattern, string> = {
  daily: "every day alike",
  event: "an event, charged each night",
  week: "a week",
  trip: "a trip without charging",
};

/** The pattern of days: what repeats, and which of its days is shown. */
export function DaysOfPattern({ day, onDay }: { day: number; onDay: (day: number) => void }) {
  const store = useStore();
  const { design, ahead } = useDesign();
  const known = design.document.loads;
  const { weekdays } = ahead.loads;
  // What waits is as it was typed, which only the core can read.
  const read = (waits: unknown, stands: number) => (typeof waits === "number" ? waits : stands);
  const days = read(ahead.loads.days, known.days);
  const away = read(ahead.brief.hours_away, design.document.brief.hours_away ?? 16);
  const [trip, setTrip] = useDraft(`${design.id}/loads/trip`);
  const pattern: Pattern = weekdays ? "week" : away > 24 ? "trip" : days > 1 ? "event" : "daily";
  const set = (next: Pattern, count: number) => {
    const hours = next === "trip" ? count * 24 : away > 24 ? 16 : away;
    store.change(
      [
        { op: "replace", path: "/loads/days", value: count },
        { op: "replace", path: "/loads/weekdays", value: next === "week" },
        ...(hours === away ? [] : [{ op: "replace" as const, path: "/brief/hours_away", value: hours }]),
      ],
      `Days: ${NAMES[next]}`,
    );
    onDay(0);
  };
  const choose = (next: Pattern) => {
    if (next === pattern) return;
    set(next, next === "week" ? 7 : next === "daily" ? 1 : Math.max(2, Math.min(days === 7 ? 3 : days, 14)));
  };
  return (
    <div className="pattern">
      <label className="field inline" htmlFor="pattern">
        <span className="name">The days</span>
        <select
          id="pattern"
          className="form-select form-select-sm"
          value={pattern}
          onChange={(event) => choose(event.target.value as Pattern)}
        >
          {Object.entries(NAMES).map(([key, label]) => (
            <option key={key} value={key}>
              {label}
            </option>
          ))}
        </select>
      </label>
      {pattern === "event" && <QuantityInput pointer="/loads/days" label="of days" />}
      {pattern === "trip" && (
        <label className="field inline" htmlFor="trip-days">
          <span className="name">of days</span>
          <input
            id="trip-days"
            className="form-control form-control-sm"
            value={trip ?? (days > 1 ? days : Math.round(away / 24))}
            onChange={(event) => setTrip(event.target.value)}
            onBlur={() => {
              const typed = Math.round(Number(trip));
              if (trip !== null && typed >= 1 && typed <= 14) set("trip", typed);
              setTrip(null);
            }}
          />
        </label>
      )}
      {known.days > 1 && (
        <div className="tabs mb-0" role="group" aria-label="Day shown">
          {Array.from({ length: known.days }, (_, i) => (
            <button key={i} type="button" className="tab" aria-pressed={day === i} onClick={() => onDay(i)}>
              {known.weekdays ? dayName(i, true, true) : dayName(i, false)}
            </button>
          ))}
        </div>
      )}
    </div>
  );
}
