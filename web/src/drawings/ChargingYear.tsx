/** The year as a ribbon: what the sun brings on a day of each month, what the other sources fill up, and what a day asks for. */
import { useDesign } from "../design/store";
import { SOURCE_COLOURS } from "./sources";
import { fit, SvgFigure } from "./SvgFigure";

const MONTH = new Intl.DateTimeFormat("en", { month: "long", timeZone: "UTC" });
export const MONTHS = Array.from({ length: 12 }, (_, i) => MONTH.format(Date.UTC(2001, i)));
const LEFT = 52;
const RIGHT = 772;
const TOP = 34;
const BASE = 204;
const PITCH = (RIGHT - LEFT) / MONTHS.length;

/** What the year of a bank is made of: its arrays, and by month what comes of each and of the others, in Wh. */
function useYear(bank: string) {
  const { assessment, document } = useDesign().design;
  const value = (path: string) => Number(assessment.figures[path]?.value ?? 0);
  const own = assessment.charging.filter((s) => s.bank === bank);
  const arrays = own.filter((s) => s.kind === "solar");
  const rest = own.filter((s) => s.kind !== "solar");
  /** The share of the days of the pattern on which a source gives. */
  const onDays = (key: string) => {
    const { days } = document.charging.sources[key] ?? {};
    return days ? days.filter((day) => day <= document.loads.days).length / document.loads.days : 1;
  };
  const needed = value(`charging/year/${bank}/needed`);
  const others = value(`charging/year/${bank}/others`);
  const months = MONTHS.map((name, i) => {
    const suns = arrays.map(({ key }) => value(`charging/${key}/yield/${i + 1}`) * onDays(key));
    const sun = suns.reduce((a, b) => a + b, 0);
    const left = Math.max(0, needed - sun);
    return { name, number: i + 1, suns, sun, filled: Math.min(left, others), missing: Math.max(0, left - others) };
  });
  const names = arrays.map(({ key }) => document.charging.sources[key]?.name ?? key);
  return { arrays, names, rest, needed, months };
}

/** The month with the least sun. */
export function usePoorest(bank: string): number {
  const { months } = useYear(bank);
  return months.reduce((least, m) => (m.sun < least.sun ? m : least), months[0]!).number;
}

export function ChargingYear({
  bank,
  month,
  onMonth,
}: {
  bank: string;
  /** From 1. */
  month: number;
  onMonth: (month: number) => void;
}) {
  const { arrays, names, rest, needed, months } = useYear(bank);
  const most = Math.max(needed, ...months.map((m) => m.sun)) * 1.06 || 1;
  const y = (wh: number) => BASE - (wh / most) * (BASE - TOP);
  const step = [50, 100, 200, 500, 1000, 2000, 5000, 10_000, 20_000, 50_000].find((s) => most / s <= 5) ?? 100_000;
  const ticks = Array.from({ length: Math.floor(most / step) + 1 }, (_, i) => i * step);
  const kilo = most >= 1000;
  const fillOthers = SOURCE_COLOURS[rest[0]?.kind ?? "mains"] ?? "var(--note)";
  return (
    <div className="squared">
      <svg className="drawing" viewBox="0 0 780 250" role="group" aria-label="The year, a day of each month">
        {ticks.map((tick) => (
          <g key={tick}>
            <line x1={LEFT} x2={RIGHT} y1={y(tick)} y2={y(tick)} stroke="var(--rule-soft)" />
            <text x={LEFT - 6} y={y(tick) + 4} textAnchor="end" className="small pale">
              {kilo ? tick / 1000 : tick}
            </text>
          </g>
        ))}
        <text x={LEFT - 6} y={TOP - 14} textAnchor="end" className="small pale">
          {kilo ? "kWh" : "Wh"} a day
        </text>
        {months.map((m, i) => {
          const x = LEFT + i * PITCH;
          let under = 0;
          const short = m.sun < needed - 1e-6;
          return (
            <g
              key={m.name}
              className="pickable"
              role="button"
              tabIndex={0}
              aria-label={`${m.name}${short ? ", the sun alone is not enough" : ""}`}
              aria-pressed={month === m.number}
              onClick={() => onMonth(m.number)}
              onKeyDown={(event) => event.key === "Enter" && onMonth(m.number)}
            >
              <rect
                x={x}
                y={TOP - 8}
                width={PITCH}
                height={BASE - TOP + 52}
                fill={month === m.number ? "var(--copper-wash)" : "transparent"}
              />
              {m.suns.map((wh, n) => {
                const from = under;
                under += wh;
                const used = Math.min(under, Math.max(needed, from));
                return (
                  <g key={arrays[n]!.key} fill={SOURCE_COLOURS.solar} opacity={n % 2 ? 0.75 : 1}>
                    <rect x={x + 1} y={y(used)} width={PITCH - 2} height={y(from) - y(used)} />
                    {/* What is more than the day asks for is not needed. */}
                    <rect x={x + 1} y={y(under)} width={PITCH - 2} height={y(used) - y(under)} opacity="0.35" />
                  </g>
                );
              })}
              <rect
                x={x + 1}
                y={y(m.sun + m.filled)}
                width={PITCH - 2}
                height={y(m.sun) - y(m.sun + m.filled)}
                fill={fillOthers}
                opacity="0.8"
              />
              {m.missing > 0 && (
                <rect
                  x={x + 1.5}
                  y={y(needed)}
                  width={PITCH - 3}
                  height={y(needed - m.missing) - y(needed)}
                  fill="none"
                  stroke="var(--mend)"
                  strokeDasharray="3 3"
                />
              )}
              <text
                x={x + PITCH / 2}
                y={BASE + 16}
                textAnchor="middle"
                className={`label condensed${month === m.number ? " strong" : ""}`}
              >
                {m.name.slice(0, 3)}
              </text>
              {short && (
                <SvgFigure
                  path={`charging/year/${bank}/${m.number}/rest`}
                  x={x + PITCH / 2}
                  y={BASE + 31}
                  textAnchor="middle"
                  className={m.missing > 0 ? "small strong" : "small"}
                />
              )}
            </g>
          );
        })}
        <line x1={LEFT} x2={RIGHT} y1={BASE} y2={BASE} stroke="var(--ink)" />
        {needed > 0 && (
          <line x1={LEFT} x2={RIGHT} y1={y(needed)} y2={y(needed)} stroke="var(--ink)" strokeWidth="1.8" />
        )}
        <text x={LEFT - 6} y={BASE + 31} textAnchor="end" className="small pale">
          lacking
        </text>
        <Legend
          entries={[
            ...names.map((name, n) => ({ label: name, fill: SOURCE_COLOURS.solar!, opacity: n % 2 ? 0.75 : 1 })),
            ...(rest.length ? [{ label: "the other sources", fill: fillOthers, opacity: 0.8 }] : []),
          ]}
        />
      </svg>
    </div>
  );
}

/** What the colours stand for, and the line. */
function Legend({ entries }: { entries: { label: string; fill: string; opacity: number }[] }) {
  const texts = entries.slice(0, 4).map(({ label }) => fit(label, 150));
  const at = (n: number) => LEFT + 60 + texts.slice(0, n).reduce((x, text) => x + 34 + text.length * 5.6, 0);
  const x = at(texts.length);
  return (
    <g>
      {texts.map((text, n) => (
        <g key={text}>
          <rect x={at(n)} y={8} width="12" height="10" fill={entries[n]!.fill} opacity={entries[n]!.opacity} />
          <text x={at(n) + 17} y={17} className="small">
            {text}
          </text>
        </g>
      ))}
      <line x1={x} x2={x + 18} y1={13} y2={13} stroke="var(--ink)" strokeWidth="1.8" />
      <text x={x + 23} y={17} className="small">
        must come in a day
      </text>
    </g>
  );
}
