/** What comes in: the first day with a ribbon for each source and the charge filling up, or the hours until it is full. */
import type { Simulation } from "../api/client";
import { useDesign } from "../design/store";
import { Fig } from "../figures/Figure";
import { DAY_H, SOURCE_COLOURS, stretches } from "./sources";
import { fit } from "./SvgFigure";

const LEFT = 150;
const RIGHT = 690;
const ROW = 27;
const TOP = 24;
/** A current into the pack from which it counts as being charged, A. */
const FLOWS_A = 0.05;
/** So often a current that comes and goes can be told apart. */
const MOST_TURNS = 60;

const clock = (hour: number) => {
  const minutes = Math.round((hour % DAY_H) * 60);
  return `${String(Math.floor(minutes / 60) % 24).padStart(2, "0")}:${String(minutes % 60).padStart(2, "0")}`;
};

/** The hours from the first that flows in until the charge ends, with what follows; the whole run where nothing does. */
function untilFull(run: Simulation): [number, number] {
  const { hour, current_a } = run.series;
  const begin = hour[0] ?? 0;
  const last = hour.at(-1) ?? begin + DAY_H;
  const ends = run.events.find((e) => e.kind === "charge" && /^(charging ends|full|.* ends the charge)/.test(e.text));
  const first = hour.findIndex((h, i) => h > begin && current_a[i]! < -FLOWS_A);
  const from = first < 0 ? begin : hour[first]!;
  const to = ends ? ends.hour : Math.min(last, from + 14);
  return [Math.max(begin, from - 0.25), Math.min(last, to + Math.max(0.5, (to - from) * 0.12))];
}

/** What a mark's label takes beside its line, px. */
const LABEL = 66;

/** Marks, with which of them have room for their words: those of the end before those of a knee, the earlier before the later. */
function labelled<M extends { kind: string; hour: number }>(marks: M[], at: (mark: M) => number) {
  const taken: [number, number][] = [];
  const roomy = new Set<M>();
  for (const mark of [...marks].sort((a, b) => Number(a.kind === "knee") - Number(b.kind === "knee"))) {
    const x = at(mark);
    const span: [number, number] = mark.kind === "knee" ? [x - LABEL, x] : [x, x + LABEL];
    if (taken.some(([a, b]) => span[0] < b && a < span[1])) continue;
    taken.push(span);
    roomy.add(mark);
  }
  return marks.map((mark) => ({ ...mark, labelled: roomy.has(mark) }));
}

interface Frame {
  from: number;
  to: number;
  top: number;
  height: number;
}

/** Charge as an area, current into the pack and voltage as lines, with knee and end marked. */
function Curves({ run, frame }: { run: Simulation; frame: Frame }) {
  const { from, to, top, height } = frame;
  const base = top + height;
  const at = (hour: number) => LEFT + ((hour - from) / (to - from)) * (RIGHT - LEFT);
  const shown = run.series.hour.map((h, i) => [h, i] as const).filter(([h]) => h >= from - 0.3 && h <= to + 0.3);
  const clamp = (hour: number) => Math.min(RIGHT, Math.max(LEFT, at(hour)));
  const line = (value: (i: number) => number) =>
    shown.map(([h, i], n) => `${n ? "L" : "M"}${clamp(h).toFixed(1)},${value(i).toFixed(1)}`).join("");
  /** What is switched rises at once: each value stands until the next. */
  const steps = (value: (i: number) => number) =>
    shown
      .map(([h, i], n) => `${n ? `H${clamp(h).toFixed(1)}V` : `M${clamp(h).toFixed(1)},`}${value(i).toFixed(1)}`)
      .join("");
  const into = (i: number) => Math.max(0, -run.series.current_a[i]!);
  const most = Math.max(1e-6, ...shown.map(([, i]) => into(i)));
  const volts = shown.map(([, i]) => run.series.voltage_v[i]!);
  const [lowest, highest] = [Math.min(...volts), Math.max(...volts)];
  const charge = (i: number) => base - run.series.charge[i]! * (height - 8);
  const amps = (i: number) => base - (into(i) / most) * (height - 22);
  const volt = (i: number) =>
    base - 12 - ((run.series.voltage_v[i]! - lowest) / Math.max(highest - lowest, 1e-6)) * (height - 34);
  const marks = labelled(
    run.events
      .filter((e) => e.hour >= from && e.hour <= to)
      .filter((e) => e.kind === "knee" || (e.kind === "charge" && /charging ends|^full|ends the charge/.test(e.text)))
      .filter((e, i, all) => !all.some((o, n) => n < i && o.kind === e.kind && e.hour - o.hour < (to - from) / 12)),
    ({ hour }) => clamp(hour),
  );
  // What is switched oftener than can be drawn is told instead.
  const turns = shown
    .filter(([, i], n) => n > 0 && into(i) > FLOWS_A && into(shown[n - 1]![1]) <= FLOWS_A)
    .map(([h]) => h);
  const busy = turns.length > MOST_TURNS;
  const first = shown[0]?.[1] ?? 0;
  const low = shown.reduce((a, [, i]) => (run.series.charge[i]! < run.series.charge[a]! ? i : a), first);
  const end = shown.at(-1)?.[1] ?? 0;
  const percent = (i: number) => `${Math.round(run.series.charge[i]! * 100)} %`;
  return (
    <g>
      <path
        d={`${line(charge)}L${clamp(run.series.hour[end]!)},${base}L${clamp(run.series.hour[first]!)},${base}Z`}
        fill="var(--holds-wash)"
      />
      <path d={line(charge)} fill="none" stroke="var(--holds)" strokeWidth="1.8" />
      <g fill="none" opacity={busy ? 0.5 : 1}>
        <path d={line(volt)} stroke="var(--positive)" strokeWidth={busy ? 0.3 : 1.1} />
        <path d={steps(amps)} stroke="var(--copper)" strokeWidth={busy ? 0.4 : 1.9} />
      </g>
      {busy && (
        <text x={(clamp(turns[0]!) + clamp(turns.at(-1)!)) / 2} y={top + 12} textAnchor="middle" className="strong">
          cut off and on again, {turns.length} times
        </text>
      )}
      <line x1={LEFT} x2={RIGHT} y1={base} y2={base} stroke="var(--rule)" />
      {marks.map((e, n) => {
        const x = clamp(e.hour);
        return (
          <g key={n}>
            <title>{e.text}</title>
            <line
              x1={x}
              x2={x}
              y1={top - 4}
              y2={base}
              stroke="var(--ink)"
              strokeDasharray={e.kind === "knee" ? "3 3" : undefined}
            />
            {e.labelled && (
              <text
                x={e.kind === "knee" ? x - 4 : x + 4}
                y={top + 7}
                textAnchor={e.kind === "knee" ? "end" : "start"}
                className="small strong"
              >
                {e.kind === "knee" ? "knee" : "full"} {clock(e.hour)}
              </text>
            )}
          </g>
        );
      })}
      <text
        x={clamp(run.series.hour[low]!) + 5}
        y={Math.min(charge(low) + 14, base - 4)}
        className="small"
        style={{ fill: "var(--holds)" }}
      >
        {percent(low)}
      </text>
      <text x={LEFT - 8} y={base - 4} textAnchor="end" className="small" style={{ fill: "var(--holds)" }}>
        charge 0 to 100 %
      </text>
      <text x={LEFT - 8} y={base - 20} textAnchor="end" className="small" style={{ fill: "var(--copper-dark)" }}>
        into the pack, to {most.toPrecision(3)} A
      </text>
      <text x={LEFT - 8} y={base - 36} textAnchor="end" className="small" style={{ fill: "var(--positive)" }}>
        {lowest.toFixed(1)} to {highest.toFixed(1)} V
      </text>
    </g>
  );
}

/** Hours along the top, so many on the sheet. */
function Hours({ from, to, bottom }: { from: number; to: number; bottom: number }) {
  const step = [0.25, 0.5, 1, 2, 3, 6].find((s) => (to - from) / s <= 12) ?? 12;
  const first = Math.ceil(from / step - 1e-9) * step;
  const ticks = Array.from({ length: Math.floor((to - first) / step + 1e-9) + 1 }, (_, i) => first + i * step);
  return ticks.map((hour) => {
    const x = LEFT + ((hour - from) / (to - from)) * (RIGHT - LEFT);
    return (
      <g key={hour}>
        <line x1={x} x2={x} y1={TOP - 6} y2={bottom} stroke="var(--rule-soft)" />
        <text x={x} y={12} textAnchor="middle" className="small pale">
          {clock(hour)}
        </text>
      </g>
    );
  });
}

/** The first day: the hours of each source, and below them the charge as it falls and fills. */
export function ChargingDay({
  run,
  selected,
  onSelect,
}: {
  run: Simulation;
  selected: string;
  onSelect: (pointer: string) => void;
}) {
  const { design } = useDesign();
  const from = run.series.hour[0] ?? 0;
  const to = from + DAY_H;
  const told = design.assessment.charging;
  const top = TOP + told.length * ROW + 14;
  const height = 176;
  const bottom = top + height;
  const at = (hour: number) => LEFT + ((hour - from) / DAY_H) * (RIGHT - LEFT);
  return (
    <div className="squared position-relative">
      <svg
        className="drawing"
        viewBox={`0 0 780 ${bottom + 10}`}
        role="group"
        aria-label="The day, a ribbon for each source"
      >
        <Hours from={from} to={to} bottom={bottom} />
        {told.map(({ key, kind, hours }, row) => {
          const name = design.document.charging.sources[key]?.name ?? "";
          const place = `/charging/sources/${key}`;
          const y = TOP + row * ROW;
          return (
            <g
              key={key}
              className="pickable"
              role="button"
              tabIndex={0}
              aria-label={name}
              aria-pressed={selected === place}
              onClick={() => onSelect(place)}
              onKeyDown={(event) => event.key === "Enter" && onSelect(place)}
            >
              <rect
                x="0"
                y={y}
                width="780"
                height={ROW}
                fill={selected === place ? "var(--copper-wash)" : "transparent"}
              />
              <text x="8" y={y + 17} className="name">
                {fit(name, LEFT - 14, 13.5)}
              </text>
              {run.offers[key] && <Offer spans={run.offers[key]} at={at} y={y} kind={kind} until={to} />}
              {(run.offers[key] ? [] : stretches(hours, from)).map(([a, b]) => (
                <rect
                  key={a}
                  x={at(a)}
                  y={y + 6}
                  width={at(b) - at(a)}
                  height={ROW - 12}
                  rx="2"
                  fill={SOURCE_COLOURS[kind] ?? "var(--note)"}
                  opacity={0.85}
                />
              ))}
            </g>
          );
        })}
        <Curves run={run} frame={{ from, to, top, height }} />
      </svg>
      {told.map(({ key }, row) => (
        <div
          key={key}
          className="position-absolute small-figure"
          style={{ right: "1%", top: `${((TOP + row * ROW + 4) / (bottom + 10)) * 100}%`, fontSize: "0.84rem" }}
        >
          <Fig path={`charging/${key}/current`} />
        </div>
      ))}
    </div>
  );
}

/** What a source offers by the hour, as high as it is strong. */
function Offer({
  spans,
  at,
  y,
  kind,
  until,
}: {
  spans: number[][];
  at: (hour: number) => number;
  y: number;
  kind: string;
  until: number;
}) {
  const shown = spans.filter(([a]) => a! < until);
  const most = Math.max(1, ...shown.map(([, , watts]) => watts!));
  return (
    <g fill={SOURCE_COLOURS[kind] ?? "var(--note)"}>
      {shown.map(([a, b, watts]) => {
        const high = (watts! / most) * (ROW - 6);
        return (
          <rect key={a} x={at(a!)} y={y + ROW - 3 - high} width={at(Math.min(b!, until)) - at(a!)} height={high} />
        );
      })}
    </g>
  );
}

/** From the first that flows in until it is full. */
export function ChargingNight({ run }: { run: Simulation }) {
  const [from, to] = untilFull(run);
  const top = TOP + 14;
  const height = 236;
  return (
    <div className="squared">
      <svg
        className="drawing"
        viewBox={`0 0 780 ${top + height + 10}`}
        role="img"
        aria-label="Charge, current and voltage until it is full"
      >
        <Hours from={from} to={to} bottom={top + height} />
        <Curves run={run} frame={{ from, to, top, height }} />
      </svg>
    </div>
  );
}
