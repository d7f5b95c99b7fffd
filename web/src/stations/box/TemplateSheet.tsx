import type { BoxDrawn } from "../../api/client";
import { useSelection } from "../../design/selection";
import { useDesign } from "../../design/store";
import { useShown } from "../../figures/units";

type Hole = BoxDrawn["holes"][number];

/** What is cut and drilled, face by face: each hole with its place, its size and the bit that makes it; and the papers to lay on. */
export function TemplateSheet({ holes }: { holes: Hole[] }) {
  const { design } = useDesign();
  const [selected, select] = useSelection();
  const shown = useShown("mm");
  const at = `/api/designs/${design.id}/template`;
  const faces = [...new Set(holes.map((hole) => hole.face))];
  const mm = (value: number) => Number(shown.to(value).toPrecision(4));
  if (!holes.length) return <p className="faint">Nothing is cut into the box yet.</p>;
  return (
    <>
      <div className="template-papers">
        <a className="btn btn-quiet btn-sm text-nowrap" href={`${at}.pdf`} target="_blank" rel="noreferrer">
          Print 1:1, A4
        </a>
        <a
          className="btn btn-quiet btn-sm text-nowrap"
          href={`${at}.pdf?paper=letter`}
          target="_blank"
          rel="noreferrer"
        >
          letter
        </a>
        <span className="faint">
          Measure the bar on the first sheet before you drill. Crosses stand every 100 mm; prick the middle of each hole
          through the paper.
        </span>
      </div>
      {faces.map((face) => (
        <section key={face} aria-label={`Holes in the ${face}`}>
          <div className="template-head">
            <h2>{face}</h2>
            <a className="btn btn-bare btn-sm" href={`${at}.svg?face=${face}`} download>
              SVG
            </a>
            <a className="btn btn-bare btn-sm" href={`${at}.svg?face=${face}&seen=inside`} download>
              SVG, from inside
            </a>
            <a className="btn btn-bare btn-sm" href={`${at}.dxf?face=${face}`} download>
              DXF
            </a>
          </div>
          <div className="table-scroll">
            <table className="sheet-table">
              <thead>
                <tr>
                  <th style={{ minWidth: 130 }}>for</th>
                  <th className="num">hole</th>
                  <th className="num">from the left, {shown.unit}</th>
                  <th className="num">over the floor, {shown.unit}</th>
                  <th>made by</th>
                </tr>
              </thead>
              <tbody>
                {holes
                  .filter((hole) => hole.face === face)
                  .map((hole, n) => (
                    <tr
                      key={n}
                      className={selected === hole.at ? "selected" : ""}
                      onClick={() => select(hole.at)}
                      data-row={n}
                    >
                      <td className={hole.screw ? "faint" : ""}>{hole.screw ? "its screw" : hole.name}</td>
                      <td className="num">{hole.size}</td>
                      <td className="num">{mm(hole.x_mm)}</td>
                      <td className="num">{mm(hole.y_mm)}</td>
                      <td>{hole.bit}</td>
                    </tr>
                  ))}
              </tbody>
            </table>
          </div>
        </section>
      ))}
    </>
  );
}
