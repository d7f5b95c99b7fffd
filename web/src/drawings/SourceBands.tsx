/** On the time axis of the strip charts: when each source may give; by the hour as high as what it offers, where that is known. */
import type { Simulation } from "../api/client";
import { useDesign } from "../design/store";
import { DAY_H, SOURCE_COLOURS, stretches } from "./sources";

const HEIGHT = 14;
/** What the strip charts leave beside their plot, px. */
const AXIS = 46;
const RIGHT = 18;

export function SourceBands({ run, range }: { run: Simulation; range: [number, number] }) {
  const { design } = useDesign();
  const told = design.assessment.charging;
  const [from, to] = range;
  const days = Array.from({ length: Math.ceil((to - from) / DAY_H) + 1 }, (_, i) => from + i * DAY_H);
  if (!told.length || to <= from) return null;
  return (
    <div className="source-bands" role="img" aria-label="When each source may give">
      {told.map(({ key, kind, hours }) => {
        const offers = run.offers[key];
        const most = Math.max(1, ...(offers ?? []).map(([, , watts]) => watts!));
        const spans: (readonly [number, number, number])[] = offers
          ? offers.map(([a, b, watts]) => [a!, b!, watts! / most] as const)
          : days.flatMap((begin) => stretches(hours, begin).map(([a, b]) => [a, b, 1] as const));
        return (
          <div key={key} className="d-flex align-items-center">
            <svg
              viewBox={`${from} 0 ${to - from} ${HEIGHT}`}
              preserveAspectRatio="none"
              style={{ flex: 1, height: HEIGHT, marginLeft: AXIS, marginRight: RIGHT }}
              fill={SOURCE_COLOURS[kind] ?? "var(--note)"}
            >
              {spans
                .map(([a, b, share]) => [Math.max(a, from), Math.min(b, to), share] as const)
                .filter(([a, b]) => b > a)
                .map(([a, b, share]) => (
                  <rect
                    key={a}
                    x={a}
                    y={HEIGHT - 2 - share * (HEIGHT - 4)}
                    width={b - a}
                    height={share * (HEIGHT - 4)}
                  />
                ))}
            </svg>
          </div>
        );
      })}
      <div className="chart-head">
        {told.map(({ key, kind }) => (
          <span className="key" key={key}>
            <span className="swatch" style={{ background: SOURCE_COLOURS[kind] ?? "var(--note)" }} />
            {design.document.charging.sources[key]?.name}
          </span>
        ))}
      </div>
    </div>
  );
}
