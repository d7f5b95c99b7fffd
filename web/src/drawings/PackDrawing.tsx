/** The pack as it stands: groups in series with their links, posts and sense leads, or one finished battery. */
import { useDesign } from "../app/store";
import { SvgFigure } from "./SvgFigure";

const WIDTH = 780;
const MOST_IN_ROW = 16;

export function PackDrawing() {
  const { design } = useDesign();
  const { pack } = design.document;
  const number = (path: string) => Number(design.assessment.figures[path]?.value ?? 0);
  if (pack?.form === "battery") return <Battery series={pack.series ?? 4} />;
  return (
    <Groups
      series={number("pack/series")}
      parallel={number("pack/parallel")}
      round={pack?.cell?.shape === "cylindrical"}
    />
  );
}

function Groups({ series, parallel, round }: { series: number; parallel: number; round: boolean }) {
  const rows = Math.ceil(series / MOST_IN_ROW);
  const perRow = Math.ceil(series / rows);
  const pitch = Math.min(86, (WIDTH - 120) / perRow);
  const cell = pitch - 10;
  const layers = Math.min(parallel, 4);
  const rowHeight = 176;
  const left = (WIDTH - pitch * perRow) / 2;
  const place = (i: number) => ({ x: left + (i % perRow) * pitch, y: 34 + Math.floor(i / perRow) * rowHeight });
  const height = rows * rowHeight + 36;
  const first = place(0);
  const last = place(series - 1);
  // Posts alternate so that each series link is a short bar: + at the top of even groups, at the bottom of odd ones.
  return (
    <svg
      className="drawing"
      viewBox={`0 0 ${WIDTH} ${height}`}
      role="img"
      aria-label={`${series} groups in series, ${parallel} cells in parallel in each`}
    >
      {Array.from({ length: series }, (_, i) => {
        const { x, y } = place(i);
        const plusTop = i % 2 === 0;
        return (
          <g key={i}>
            {Array.from({ length: layers }, (_, n) => {
              const off = (layers - 1 - n) * 4;
              return (
                <rect
                  key={n}
                  x={x + off}
                  y={y - off}
                  width={cell - (layers - 1) * 4}
                  height="112"
                  rx={round ? 14 : 4}
                  fill="var(--holds-wash)"
                  stroke="var(--ink)"
                />
              );
            })}
            <Post x={x + (cell - (layers - 1) * 4) / 2} y={y + 18} plus={plusTop} />
            <Post x={x + (cell - (layers - 1) * 4) / 2} y={y + 94} plus={!plusTop} />
            {cell > 34 && (
              <text x={x + (cell - (layers - 1) * 4) / 2} y={y + 54} textAnchor="middle" className="head">
                {cell > 56 ? `group ${i + 1}` : i + 1}
              </text>
            )}
            {cell > 44 && (
              <text x={x + (cell - (layers - 1) * 4) / 2} y={y + 70} textAnchor="middle" className="small pale">
                {parallel > 1 ? `× ${parallel}` : "1 cell"}
              </text>
            )}
            <line x1={x + 8} x2={x + 8} y1={y + 112} y2={y + 128} stroke="var(--note)" strokeDasharray="3 2" />
            <text
              x={x + 8}
              y={y + 139}
              textAnchor="middle"
              className="small"
              style={{ fill: "var(--note)", fontWeight: 600 }}
            >
              {i + 1}
            </text>
          </g>
        );
      })}
      {Array.from({ length: series - 1 }, (_, i) => {
        const a = place(i);
        const b = place(i + 1);
        const middle = (cell - (layers - 1) * 4) / 2;
        const y = (i % 2 === 0 ? 94 : 18) + a.y;
        if (a.y !== b.y) {
          const by = (i % 2 === 0 ? 94 : 18) + b.y;
          return (
            <path
              key={i}
              d={`M${a.x + middle},${y} H${WIDTH - 22} V${b.y - 16} H${left - 18} V${by} H${b.x + middle}`}
              fill="none"
              stroke="var(--copper)"
              strokeWidth="5"
              strokeLinejoin="round"
            />
          );
        }
        return (
          <g key={i}>
            <rect
              x={a.x + middle - 9}
              y={y - 6}
              width={pitch + 18}
              height="12"
              rx="2"
              fill="var(--copper)"
              stroke="var(--copper-dark)"
            />
            <circle cx={a.x + middle} cy={y} r="3.500" fill="var(--sheet)" stroke="var(--ink)" strokeWidth=".8" />
            <circle cx={b.x + middle} cy={y} r="3.500" fill="var(--sheet)" stroke="var(--ink)" strokeWidth=".8" />
          </g>
        );
      })}
      <path
        d={`M${first.x + (cell - (layers - 1) * 4) / 2},${first.y + 18} V12 H${Math.max(20, left - 40)}`}
        fill="none"
        stroke="var(--positive)"
        strokeWidth="4"
      />
      <text x={Math.max(20, left - 40)} y={30} className="label" style={{ fill: "var(--positive)", fontWeight: 600 }}>
        + post
      </text>
      <path
        d={`M${last.x + (cell - (layers - 1) * 4) / 2},${last.y + (series % 2 ? 94 : 18)} ${series % 2 ? `v62 H${WIDTH - 30}` : `V${last.y - 20} H${WIDTH - 30}`}`}
        fill="none"
        stroke="var(--negative)"
        strokeWidth="4"
      />
      <text
        x={WIDTH - 30}
        y={last.y + (series % 2 ? 150 : -4)}
        textAnchor="end"
        className="label"
        style={{ fontWeight: 600 }}
      >
        − post
      </text>
      <text x={left - 8} y={173} textAnchor="end" className="small" style={{ fill: "var(--note)", fontWeight: 600 }}>
        sense
      </text>
    </svg>
  );
}

function Post({ x, y, plus }: { x: number; y: number; plus: boolean }) {
  const colour = plus ? "var(--positive)" : "var(--negative)";
  return (
    <g>
      <circle cx={x} cy={y} r="10" fill="var(--sheet)" stroke={colour} strokeWidth="1.800" />
      <path d={plus ? `M${x - 4},${y}h8M${x},${y - 4}v8` : `M${x - 4},${y}h8`} stroke={colour} strokeWidth="1.600" />
    </g>
  );
}

function Battery({ series }: { series: number }) {
  return (
    <svg
      className="drawing"
      viewBox="0 0 780 190"
      role="img"
      aria-label={`One finished battery of ${series} cells in series`}
    >
      <rect
        x="250"
        y="42"
        width="280"
        height="130"
        rx="8"
        fill="var(--holds-wash)"
        stroke="var(--ink)"
        strokeWidth="1.500"
      />
      <rect x="250" y="42" width="280" height="22" rx="8" fill="var(--rule-soft)" stroke="var(--ink)" />
      {Array.from({ length: series }, (_, i) => (
        <rect
          key={i}
          x={266 + (i * 248) / series}
          y="112"
          width={248 / series - 6}
          height="46"
          rx="3"
          fill="var(--sheet)"
          stroke="var(--ink)"
        />
      ))}
      <Post x={290} y={42} plus />
      <Post x={490} y={42} plus={false} />
      <path d="M290,32 V16 H190" fill="none" stroke="var(--positive)" strokeWidth="4" />
      <path d="M490,32 V16 H590" fill="none" stroke="var(--negative)" strokeWidth="4" />
      <text x="190" y="34" className="label" style={{ fill: "var(--positive)", fontWeight: 600 }}>
        + post
      </text>
      <text x="590" y="34" textAnchor="end" className="label" style={{ fontWeight: 600 }}>
        − post
      </text>
      <text x="390" y="100" textAnchor="middle" className="head">
        finished battery, board inside
      </text>
      <SvgFigure path="pack/nominal" x={390} y={82} textAnchor="middle" className="label strong" />
    </svg>
  );
}
