import type { BuildWear } from "../../api/client";
import { useRecorded } from "../../design/record";
import { Fig } from "../../figures/Figure";
import { FigureRow } from "../../figures/FigureRow";
import { NotYet } from "../../figures/NotYet";
import { useShown } from "../../figures/units";
import { dayText, today } from "./kinds";

const LEFT = 52;
const RIGHT = 768;
const TOP = 26;
const BASE = 262;
const END = 0.8;
/** The temperature at which tests are compared. */
const BROUGHT_TO_C = 25;

const year = (on: string) => {
  const day = new Date(`${on}T00:00:00Z`);
  const begin = Date.UTC(day.getUTCFullYear(), 0, 1);
  return day.getUTCFullYear() + (day.getTime() - begin) / (Date.UTC(day.getUTCFullYear() + 1, 0, 1) - begin);
};

/** How the pack has worn: what its chemistry would leave over the years, and what was measured. */
export function Wear({ onTest }: { onTest: (kind: "capacity" | "resistance") => void }) {
  const { life } = useRecorded();
  if (!life) return <NotYet error={null} doing="Reading the log…" />;
  const { wear } = life;
  if (!wear)
    return (
      <div className="empty-state">
        <h2>Not in service yet</h2>
        <p className="mb-0">
          Here the capacity is drawn over the years, as it is measured and as its chemistry would have it. Enter a
          capacity test while the pack is new: all later ones are held against it.
        </p>
      </div>
    );
  return (
    <>
      <WearChart wear={wear} />
      <dl className="figure-list wear-figures">
        <FigureRow label="Lost in a year by age" figure={wear.calendar} />
        <FigureRow label="Lost by cycles so far" figure={wear.cycling} />
        <div>
          <dt>Down to four fifths, as it is used</dt>
          <dd>{wear.spent_on ? wear.spent_on.slice(0, 4) : "not in 25 years"}</dd>
        </div>
        <div>
          <dt>Down to four fifths, as the tests go on</dt>
          <dd>
            {wear.by_trend
              ? wear.by_trend.slice(0, 4)
              : wear.capacities.length < 2
                ? "two tests, half a year apart"
                : "no fall to be seen"}
          </dd>
        </div>
      </dl>
      <div className="tests-of">
        <Tests title="Capacity" of={wear.capacities} onEnter={() => onTest("capacity")} />
        <Tests title="Resistance" of={wear.resistances} onEnter={() => onTest("resistance")} />
      </div>
    </>
  );
}

function Tests({ title, of, onEnter }: { title: string; of: BuildWear["capacities"]; onEnter: () => void }) {
  const degrees = useShown("°C");
  return (
    <section>
      <h3>
        {title}{" "}
        <button type="button" className="btn btn-quiet btn-sm" onClick={onEnter}>
          Enter a test
        </button>
      </h3>
      {of.length === 0 ? (
        <p className="faint">None was entered yet.</p>
      ) : (
        <table className="sheet-table">
          <thead>
            <tr>
              <th>day</th>
              <th className="num">
                at {degrees.to(BROUGHT_TO_C)} {degrees.unit}
              </th>
              <th className="num">of new</th>
            </tr>
          </thead>
          <tbody>
            {of.map((test) => (
              <tr key={test.item}>
                <td>{dayText(test.on)}</td>
                <td className="num">
                  <Fig figure={test.figure} />
                </td>
                <td className="num">
                  <Fig figure={test.share} />
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}

function WearChart({ wear }: { wear: BuildWear }) {
  const from = year(wear.since);
  const now = year(today());
  const tests = wear.capacities.map((t) => ({ at: year(t.on), share: Number(t.share.value), text: t.share.text }));
  const last = year(wear.course.at(-1)?.on ?? today());
  const until = Math.max(now + 1, Math.min(last, from + 25));
  const least = Math.min(END, ...tests.map((t) => t.share), ...wear.course.map((point) => point.share)) - 0.04;
  const most = Math.max(1, ...tests.map((t) => t.share)) + 0.02;
  const x = (at: number) => LEFT + ((at - from) / (until - from)) * (RIGHT - LEFT);
  const y = (share: number) => BASE - ((share - least) / (most - least)) * (BASE - TOP);
  const path = (points: (readonly [number, number])[]) =>
    points.map(([at, share], n) => `${n ? "L" : "M"}${x(at).toFixed(1)} ${y(share).toFixed(1)}`).join("");
  const course = wear.course.map(({ on, share }) => [year(on), share] as const);
  const past = course.filter(([at]) => at <= now);
  const ahead = course.filter(([at]) => at >= (past.at(-1)?.[0] ?? from));
  const step = until - from > 12 ? 2 : 1;
  const marks = Array.from({ length: Math.ceil((until - from) / step) + 1 }, (_, n) => Math.ceil(from) + n * step);
  const shares = [0.7, 0.75, 0.8, 0.85, 0.9, 0.95, 1].filter((s) => s > least && s < most);
  return (
    <div className="squared">
      <svg
        className="drawing"
        viewBox="0 0 780 300"
        role="img"
        aria-label={`Share of the capacity that is left, from ${wear.since.slice(0, 4)} on: ${
          tests.length
            ? tests.map((t, n) => `${t.text} on ${dayText(wear.capacities[n]!.on)}`).join(", ")
            : "not measured yet"
        }`}
      >
        {shares.map((share) => (
          <g key={share}>
            <line
              x1={LEFT}
              x2={RIGHT}
              y1={y(share)}
              y2={y(share)}
              stroke={share === END ? "var(--mend)" : "var(--rule-soft)"}
              strokeDasharray={share === END ? "6 4" : undefined}
            />
            <text x={LEFT - 8} y={y(share) + 4} textAnchor="end" className="small pale">
              {Math.round(share * 100)} %
            </text>
          </g>
        ))}
        {marks
          .filter((at) => at <= until)
          .map((at) => (
            <g key={at}>
              <line x1={x(at)} x2={x(at)} y1={BASE} y2={BASE + 5} stroke="var(--rule)" />
              <text x={x(at)} y={BASE + 20} textAnchor="middle" className="small pale">
                {at}
              </text>
            </g>
          ))}
        <line x1={x(now)} x2={x(now)} y1={TOP} y2={BASE} stroke="var(--rule)" />
        <text x={x(now) + 5} y={TOP + 4} className="small pale">
          today
        </text>
        <path d={path(past)} fill="none" stroke="var(--faint)" strokeWidth="2" />
        <path d={path(ahead)} fill="none" stroke="var(--faint)" strokeWidth="2" strokeDasharray="3 4" />
        {tests.length > 1 && (
          <path
            d={path(tests.map((t) => [t.at, t.share] as const))}
            fill="none"
            stroke="var(--copper)"
            strokeWidth="1.500"
          />
        )}
        {tests.map((test, n) => (
          <g key={wear.capacities[n]!.item}>
            <circle
              cx={x(test.at)}
              cy={y(test.share)}
              r="5"
              fill="var(--copper)"
              stroke="var(--sheet)"
              strokeWidth="1.500"
            />
            <text x={x(test.at) + 9} y={y(test.share) - 7} className="small">
              {test.text}
            </text>
          </g>
        ))}
        <text x={LEFT + 6} y={y(END) - 6} className="small pale">
          four fifths
        </text>
      </svg>
    </div>
  );
}
