import { useDesign } from "../../design/store";
import { SvgFigure } from "../../drawings/SvgFigure";

const LEFT = 16;
const RIGHT = 520;

/** The rhythm of a day (away, plugged in) beside the temperatures of the site and of the box. */
export function RhythmDrawing() {
  const { design } = useDesign();
  const brief = design.document.brief;
  const ready = brief?.ready_h ?? 8;
  const away = brief?.hours_away ?? 24;
  const x = (hours: number) => LEFT + (Math.min(hours, 24) / 24) * (RIGHT - LEFT);
  const days = Math.ceil(away / 24);
  const value = (path: string) => Number(design.assessment.figures[path]?.value ?? 0);
  const t = (celsius: number) => 88 - ((celsius + 20) / 90) * 74;
  return (
    <svg className="drawing" viewBox="0 0 780 104" role="img" aria-label="Rhythm of the day and temperatures">
      <rect x={LEFT} y="30" width={x(away) - LEFT} height="26" rx="3" fill="var(--copper)" />
      <text x={LEFT + 10} y="48" className="head" style={{ fill: "var(--sheet)" }}>
        away{days > 1 ? `, ${days} days` : ""}
      </text>
      {away < 24 && (
        <>
          <rect x={x(away)} y="30" width={RIGHT - x(away)} height="26" rx="3" fill="var(--holds)" />
          <text x={x(away) + 10} y="48" className="head" style={{ fill: "var(--sheet)" }}>
            {24 - away > 4 ? "plugged in" : ""}
          </text>
        </>
      )}
      {Array.from({ length: 9 }, (_, i) => i * 3).map((h) => (
        <g key={h}>
          <line x1={x(h)} x2={x(h)} y1="58" y2="63" stroke="var(--faint)" />
          <text x={x(h)} y="77" textAnchor="middle" className="small pale condensed">
            {String(Math.floor((ready + h) % 24)).padStart(2, "0")}:
            {String(Math.round((ready % 1) * 60)).padStart(2, "0")}
          </text>
        </g>
      ))}
      <SvgFigure path="brief/hours_away" x={LEFT} y={22} className="label strong" />
      <text x={LEFT + 44} y="22" className="label pale">
        between charges
      </text>
      <line x1="600" x2="600" y1="10" y2="92" stroke="var(--rule)" strokeWidth="10" strokeLinecap="round" />
      <line
        x1="600"
        x2="600"
        y1={t(value("brief/site_min"))}
        y2={t(value("brief/site_max"))}
        stroke="var(--note)"
        strokeWidth="10"
        strokeLinecap="round"
      />
      <line
        x1="600"
        x2="600"
        y1={t(value("brief/site_max"))}
        y2={t(value("brief/inside"))}
        stroke="var(--stop)"
        strokeWidth="6"
        strokeLinecap="round"
      />
      {(
        [
          ["brief/site_min", "coldest", 12],
          ["brief/site_max", "hottest", 6],
          ["brief/inside", "inside", -2],
        ] as const
      ).map(([path, name, dy]) => (
        <g key={path}>
          <SvgFigure path={path} x={616} y={t(value(path)) + dy} className="label strong" />
          <text x={664} y={t(value(path)) + dy} className="label pale">
            {name}
          </text>
        </g>
      ))}
    </svg>
  );
}
