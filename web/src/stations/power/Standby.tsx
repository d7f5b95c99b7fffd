/** Cut-offs on one voltage scale beside the pack, and what drains it with all loads off. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, take } from "../../api/client";
import { useSelection } from "../../design/selection";
import { useDesign } from "../../design/store";
import { Fig } from "../../figures/Figure";
import { NotYet } from "../../figures/NotYet";
import { QuantityInput } from "../../figures/QuantityInput";
import { fit } from "../../drawings/SvgFigure";

const W = 780;
const H = 330;
const LEFT = 54;
const CURVES = 420;
const TOP = 18;
const BASE = 288;
const RANKS = ["loads", "inverters", "board", "cells"];

function useStandby() {
  const { design } = useDesign();
  return useQuery({
    queryKey: ["standby", design.id, design.revision],
    queryFn: () => take(api.GET("/api/designs/{design_id}/standby", { params: { path: { design_id: design.id } } })),
    placeholderData: keepPreviousData,
  });
}

/** Labels pushed apart, from the top down, so that none lies over another. */
function spread<T extends { at: number }>(marks: T[]): (T & { label: number })[] {
  const out: (T & { label: number })[] = [];
  for (const mark of [...marks].sort((a, b) => a.at - b.at)) {
    out.push({ ...mark, label: Math.max(mark.at, (out.at(-1)?.label ?? -Infinity) + 19) });
  }
  return out;
}

export function CutOffs() {
  const { data, error } = useStandby();
  const [, select] = useSelection();
  if (!data) return <NotYet error={error} doing="Working out the cut-offs…" />;
  const volts = [
    ...data.scale.flatMap((p) => [p.rested, p.running, p.surge]),
    ...data.cutoffs.map((c) => Number(c.volts.value)),
  ];
  const low = Math.min(...volts);
  const high = Math.max(...volts);
  const y = (v: number) => BASE - ((v - low) / (high - low || 1)) * (BASE - TOP);
  const x = (soc: number) => LEFT + soc * (CURVES - LEFT);
  const line = (key: "rested" | "running" | "surge") => data.scale.map((p) => `${x(p.soc)},${y(p[key])}`).join(" ");
  const step = [0.1, 0.2, 0.5, 1, 2, 5].find((s) => (high - low) / s <= 9) ?? 10;
  const ticks = Array.from({ length: 12 }, (_, i) => Math.ceil(low / step) * step + i * step).filter((v) => v <= high);
  const marks = spread(data.cutoffs.map((c) => ({ ...c, at: y(Number(c.volts.value)) })));
  return (
    <>
      <svg className="drawing" viewBox={`0 0 ${W} ${H}`} role="img" aria-label="Cut-offs beside the pack's voltage">
        {ticks.map((v) => (
          <g key={v}>
            <line x1={LEFT} x2={CURVES} y1={y(v)} y2={y(v)} stroke="var(--rule-soft)" />
            <text x={LEFT - 6} y={y(v) + 4} textAnchor="end" className="small pale">
              {Number(v.toFixed(2))} V
            </text>
          </g>
        ))}
        {[0, 0.25, 0.5, 0.75, 1].map((soc) => (
          <text key={soc} x={x(soc)} y={BASE + 16} textAnchor="middle" className="small pale">
            {soc * 100} %
          </text>
        ))}
        <text x={(LEFT + CURVES) / 2} y={BASE + 34} textAnchor="middle" className="small pale">
          state of charge, on the coldest day
        </text>
        <polyline points={line("rested")} fill="none" stroke="var(--ink)" strokeWidth="2" />
        <polyline points={line("running")} fill="none" stroke="var(--copper)" strokeWidth="2" />
        <polyline points={line("surge")} fill="none" stroke="var(--stop)" strokeWidth="1.500" strokeDasharray="5 3" />
        {marks.map((c) => (
          <g key={c.place + c.name} className="pickable" onClick={() => select(c.place)}>
            <line x1={LEFT} x2={CURVES + 20} y1={c.at} y2={c.at} stroke="var(--note)" strokeWidth="1.200" />
            <polyline
              points={`${CURVES + 20},${c.at} ${CURVES + 44},${c.label}`}
              fill="none"
              stroke="var(--note)"
              strokeWidth="1"
            />
            <text x={CURVES + 50} y={c.label + 4} className="name">
              <tspan className="strong">{c.volts.text}</tspan>{" "}
              {fit(`${RANKS[c.rank]}: ${c.name}`, W - CURVES - 110, 13)}
            </text>
          </g>
        ))}
      </svg>
      <p className="legend">
        <span style={{ color: "var(--ink)" }}>▬</span> rested <span style={{ color: "var(--copper)" }}>▬</span> at the
        running peak <span style={{ color: "var(--stop)" }}>┅</span> in the worst surge. From the top, loads should go
        first, then the inverter, then the board; the limit of the cells is never reached.
      </p>
      <table className="sheet-table">
        <thead>
          <tr>
            <th>cut-off</th>
            <th>stands for</th>
            <th className="num">at</th>
          </tr>
        </thead>
        <tbody>
          {data.cutoffs.map((c) => (
            <tr key={c.place + c.name}>
              <td>{c.name}</td>
              <td className="faint">{RANKS[c.rank]}</td>
              <td className="num">
                <Fig figure={c.volts} />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

export function IdleDrain() {
  const { data, error } = useStandby();
  if (!data) return <NotYet error={error} doing="Working out the drain…" />;
  const most = Math.max(...data.idle.map((i) => Number(i.watts.value)), 0.001);
  return (
    <>
      <div className="figure-row">
        <div>
          <span className="name">main switch open: empty after</span>
          <span className="big">
            <Fig path="power/shelf_off" />
          </span>
        </div>
        <div>
          <span className="name">main switch closed, loads off: empty after</span>
          <span className="big">
            <Fig path="power/shelf_on" />
          </span>
        </div>
        <QuantityInput pointer="/brief/shelf_days" label="It must last on the shelf" unit="days" />
      </div>
      <table className="sheet-table">
        <thead>
          <tr>
            <th>draws with all loads off</th>
            <th className="num">draw</th>
            <th />
            <th>when the main switch is open</th>
          </tr>
        </thead>
        <tbody>
          {data.idle.map((i) => (
            <tr key={i.place + i.name}>
              <td>{i.name}</td>
              <td className="num">
                <Fig figure={i.watts} />
              </td>
              <td style={{ width: "30%" }}>
                <span className="drain" style={{ width: `${(Number(i.watts.value) / most) * 100}%` }} />
              </td>
              <td className="faint">{i.switched ? "cut off" : "goes on drawing"}</td>
            </tr>
          ))}
          <tr className="total">
            <td>with self-discharge, switch closed</td>
            <td className="num">
              <Fig path="power/shelf_on_watts" />
            </td>
            <td />
            <td>
              open: <Fig path="power/shelf_off_watts" />
            </td>
          </tr>
        </tbody>
      </table>
    </>
  );
}
