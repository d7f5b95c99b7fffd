import { useDesign } from "../../design/store";
import { belongsTo } from "../../design/selection";
import type { Season } from "../../drawings/run";
import { Fig } from "../../figures/Figure";
import { HoursInput } from "../../figures/HoursInput";
import { Mark } from "../../figures/Mark";
import { QuantityInput } from "../../figures/QuantityInput";

const clock = (hour: number) =>
  `${Math.floor(hour)}${hour % 1 ? `:${String(Math.round((hour % 1) * 60)).padStart(2, "0")}` : ""}`;

/** Hours of the day as people write them; two stretches that meet at midnight are one. */
function hoursText(hours: number[][]): string {
  const late = hours.find(([, to]) => to === 24);
  const early = hours.find(([from]) => from === 0);
  const whole = late && early && late !== early ? [[late[0]!, early[1]!]] : [];
  const rest = whole.length ? hours.filter((span) => span !== late && span !== early) : hours;
  return [...rest, ...whole].map(([from, to]) => `${clock(from!)}–${clock(to!)}`).join(", ");
}

/** The sources as rows: where each joins, what it gives, when, and what it brought. */
export function SourceTable({
  selected,
  onSelect,
  season,
}: {
  selected: string;
  onSelect: (pointer: string) => void;
  season: Season;
}) {
  const { design } = useDesign();
  const { sources } = design.document.charging;
  const { network, banks } = design.document.power;
  return (
    <div className="table-scroll">
      <table className="sheet-table">
        <thead>
          <tr>
            <th style={{ minWidth: 130 }}>source</th>
            <th>joins at</th>
            <th className="num">gives</th>
            <th className="num">set point</th>
            <th style={{ minWidth: 110 }}>when</th>
            <th className="num">takes</th>
            <th className="num">gave a day</th>
            <th style={{ width: 26 }}>
              <span className="visually-hidden">worst finding</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {design.assessment.charging.map(({ key, kind, hours, joins, bank }) => {
            const at = `/charging/sources/${key}`;
            const source = sources[key];
            if (!source) return null;
            const worst = design.assessment.findings.find((f) => f.place === at || f.place.startsWith(`${at}/`));
            const figure = (name: string) => <Fig path={`charging/${key}/${name}`} />;
            return (
              <tr
                key={key}
                data-row={key}
                className={belongsTo(selected, at) ? "selected" : ""}
                onClick={(event) => event.target instanceof HTMLTableCellElement && onSelect(at)}
                onFocus={(event) => event.target instanceof HTMLInputElement && selected !== at && onSelect(at)}
              >
                <td>
                  <QuantityInput cell pointer={`${at}/name`} label={`Name of ${source.name}`} />
                </td>
                <td>
                  {joins ? network[joins]?.name : <span className="faint">nowhere yet</span>}
                  {bank !== "pack" && <span className="faint small-figure"> {banks[bank]?.name}</span>}
                </td>
                <td className="num">{figure("current")}</td>
                <td className="num">{figure("set_point")}</td>
                <td>
                  <HoursInput
                    pointer={`${at}/windows`}
                    of={source.name}
                    windows={source.windows}
                    placeholder={kind === "solar" ? "with the sun" : hoursText(hours)}
                  />
                </td>
                <td className="num">{figure("taken_w")}</td>
                <td className="num">
                  <Fig path={`forecast/${season}/charged/${key}`} />
                </td>
                <td>{worst && <Mark kind={worst.severity} />}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}
