import { useDesign } from "../../design/store";
import { Fig } from "../../figures/Figure";
import { FigureRow } from "../../figures/FigureRow";

/** What limits the current, part by part; and the figures that the rest of the build is judged by. */
const ROWS: [string, string, string][] = [
  ["cells", "limit_cells", "burst_cells"],
  ["protection board", "board", "board_burst"],
  ["links between cells", "limit_links", "burst_links"],
  ["collector of an end group", "limit_collector", "burst_collector"],
  ["the battery, by its sheet", "limit_battery", "burst_battery"],
  ["hardest-worked string", "limit_strings", "burst_strings"],
  ["string fuses", "limit_fuses", "burst_fuses"],
];
const FIGURES: [string, string][] = [
  ["recommended for these cells", "pack/recommended"],
  ["may be charged with", "pack/charge_limit"],
  ["resistance, warm", "pack/resistance"],
  ["resistance at 1 kHz", "pack/fault_resistance"],
  ["fault current at the posts", "pack/fault"],
  ["a fault in one string is fed with", "pack/string_fault"],
  ["greatest fault at the fuse of a string", "pack/string_fuse_fault"],
  ["first current when the strings are joined", "pack/joining"],
  ["least voltage", "pack/v_min"],
  ["lowest working voltage", "pack/v_low"],
  ["nominal voltage", "pack/v_nom"],
  ["greatest voltage", "pack/v_max"],
  ["rested cell at half its charge", "pack/curve"],
  ["its own protection opens", "pack/cutoff"],
  ["link of one cell", "pack/link"],
  ["one link carries", "pack/link_rating"],
  ["collector of an end group", "pack/collector"],
  ["it carries", "pack/collector_rating"],
  ["one link, with its joints", "pack/link_resistance"],
  ["balance current", "pack/board_balance"],
  ["own draw of the board", "pack/board_own_draw"],
  ["cycles to 80 %", "pack/cycles"],
  ["mass", "pack/mass"],
  ["cost", "pack/cost"],
  ["cost of a usable kWh", "pack/cost_per_kwh"],
];

export function Limits() {
  const { design } = useDesign();
  const has = (path: string) => path in design.assessment.figures;
  return (
    <>
      <table className="sheet-table">
        <thead>
          <tr>
            <th>what limits the current</th>
            <th className="num">continuous</th>
            <th className="num">burst</th>
          </tr>
        </thead>
        <tbody>
          {ROWS.filter(([, path]) => has(`pack/${path}`)).map(([name, continuous, burst]) => (
            <tr key={name}>
              <td>{name}</td>
              <td className="num">
                <Fig path={`pack/${continuous}`} />
              </td>
              <td className="num">
                <Fig path={`pack/${burst}`} />
              </td>
            </tr>
          ))}
          <tr className="total">
            <td>the pack gives</td>
            <td className="num">
              <Fig path="pack/continuous" />
            </td>
            <td className="num">
              <Fig path="pack/burst" />
            </td>
          </tr>
          <tr>
            <td>asked for, by the schedule</td>
            <td className="num">
              <Fig path="power/current" />
            </td>
            <td className="num">
              <Fig path="power/surge" />
            </td>
          </tr>
        </tbody>
      </table>
      <dl className="figure-list two-columns mt-3">
        {FIGURES.filter(([, path]) => has(path)).map(([name, path]) => (
          <FigureRow key={path} label={name} path={path} />
        ))}
      </dl>
    </>
  );
}
