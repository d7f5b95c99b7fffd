import type { Pack } from "../../api/client";
import { useDesign } from "../../design/store";
import { ChoiceRow } from "../../figures/ChoiceRow";
import { FigureRow } from "../../figures/FigureRow";

const SUMS: [string, string][] = [
  ["Usable, coldest", "power/available"],
  ["Gives", "pack/continuous"],
  ["Burst", "pack/burst"],
  ["Fault at the posts", "pack/fault"],
];

/** What the margin says of the pack, or of the group or string that is selected. */
export function PackDetails({ selected, pack }: { selected: string; pack: Pack }) {
  const { design } = useDesign();
  const group = /^\/pack\/groups\/g(\d+)/.exec(selected)?.[1];
  const string = /^\/pack\/strings\/s(\d+)/.exec(selected)?.[1];
  const cells = group && pack.form === "cells" ? pack.groups?.[`g${group}`]?.cells : undefined;
  const title = group
    ? `Group ${group}`
    : string
      ? `String ${string}`
      : pack.form === "cells"
        ? "Cells and board"
        : "The pack";
  return (
    <>
      <div className="crumb">Pack</div>
      <h2>{title}</h2>
      <dl className="figure-list">
        {group && design.assessment.figures[`pack/group/${group}/capacity`] && (
          <>
            <FigureRow label="Capacity, measured" path={`pack/group/${group}/capacity`} />
            <FigureRow label="Resistance" path={`pack/group/${group}/resistance`} />
          </>
        )}
        {string && (
          <>
            <FigureRow label="Share of the current" path={`pack/share/${string}`} />
            <FigureRow label="Its fuse" path="pack/string_fuse" />
            <FigureRow label="Gauge of its lead" path={`pack/string/${string}/run/gauge`} />
            <FigureRow label="That carries" path={`pack/string/${string}/run/ampacity`} />
            <FigureRow label="A short asks for" path={`pack/string/${string}/run/withstand`} />
            <FigureRow label="It loses" path={`pack/string/${string}/run/drop`} />
          </>
        )}
        {!group && !string && (
          <>
            {pack.form === "cells" && <ChoiceRow path="pack/series" label="In series" />}
            {pack.form !== "battery" && <ChoiceRow path="pack/parallel" label="In parallel" />}
            {pack.form === "cells" && <ChoiceRow path="pack/board" label="Protection board" />}
            {SUMS.map(([name, path]) => (
              <FigureRow key={path} label={name} path={path} />
            ))}
          </>
        )}
      </dl>
      {cells && (
        <table className="sheet-table small-figure mt-2">
          <thead>
            <tr>
              <th>place</th>
              <th>cell</th>
              <th className="num">Ah</th>
              <th className="num">mΩ</th>
            </tr>
          </thead>
          <tbody>
            {cells.map((cell, i) => (
              <tr key={cell.label}>
                <td>{i + 1}</td>
                <td className="text-nowrap">{cell.label}</td>
                <td className="num">{cell.capacity_ah}</td>
                <td className="num">{cell.resistance_mohm ?? "–"}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </>
  );
}
