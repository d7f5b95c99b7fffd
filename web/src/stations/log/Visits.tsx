import { freshKey } from "../../design/ids";
import { useRecorded, useRecordLine } from "../../design/record";
import { useDesign } from "../../design/store";
import { NotYet } from "../../figures/NotYet";
import { dayText, daysTo, today } from "./kinds";

const AT_VISIT = "/log/visits/";

/** How far off a day is, in words. */
function until(due: string): string {
  const days = daysTo(due);
  if (days === 0) return "today";
  const count = Math.abs(days) === 1 ? "1 day" : `${Math.abs(days)} days`;
  return days > 0 ? `in ${count}` : `${count} overdue`;
}

const every = (days: number) =>
  days === 365 ? "each year" : days % 30 === 0 && days > 30 ? `each ${days / 30} months` : `each ${days} days`;

/** What is looked at again and again: when it was last, when it is due, and what is done there. */
export function Visits({ selected, onFault }: { selected: string; onFault: () => void }) {
  const { design } = useDesign();
  const { life } = useRecorded();
  const { line, written } = useRecordLine(design.id);
  if (!life) return <NotYet error={null} doing="Reading the log…" />;
  if (!life.since)
    return (
      <div className="empty-state">
        <h2>Not in service yet</h2>
        <p className="mb-0">
          From its last step at the bench, or its first use, the visits are counted: joints tightened anew after the
          first week, balance, capacity, seals. They can be taken into a calendar.
        </p>
      </div>
    );
  return (
    <>
      <p className="faint">
        In service since {dayText(life.since)}.{" "}
        <a href={`/api/designs/${design.id}/visits.ics`} download>
          Take them into a calendar
        </a>
      </p>
      <ul className="visits">
        {life.visits.map((visit) => {
          const waits = written.some((w) => w.data?.kind === "visit" && w.data.visit === visit.key);
          return (
            <li
              key={visit.key}
              className={`${visit.state} ${selected === AT_VISIT + visit.key ? "picked" : ""}`}
              data-visit={visit.key}
            >
              <div className="due">
                <strong>{until(visit.due)}</strong>
                <span className="faint">{dayText(visit.due)}</span>
              </div>
              <div>
                <h3>{visit.label}</h3>
                <p className="mb-1">{visit.text}</p>
                <p className="faint mb-0" title={visit.why}>
                  {every(visit.every_days)}; {visit.last ? `last on ${dayText(visit.last)}` : "never made yet"}.{" "}
                  {visit.why}.
                </p>
              </div>
              <div className="visit-acts">
                <button
                  type="button"
                  className="btn btn-quiet btn-sm text-nowrap"
                  disabled={waits}
                  aria-label={`Made today: ${visit.label}`}
                  onClick={() => line.write(freshKey(), { kind: "visit", on: today(), visit: visit.key })}
                >
                  {waits ? "not stored yet" : "Made today"}
                </button>
                <button type="button" className="btn btn-bare btn-sm text-nowrap" onClick={onFault}>
                  found a fault…
                </button>
              </div>
            </li>
          );
        })}
      </ul>
    </>
  );
}
