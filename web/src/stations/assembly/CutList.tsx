import type { Build, BuildPiece } from "../../api/client";
import { useDesign } from "../../design/store";
import { Fig } from "../../figures/Figure";
import { LabelSheets } from "../../figures/LabelSheets";
import { SelectField } from "../../figures/fields";
import { percent, QuantityInput } from "../../figures/QuantityInput";
import { AT_PIECE, isFor } from "./build";

interface Props {
  build: Build;
  selected: string;
  onSelect: (pointer: string) => void;
}

const FILES = [
  ["Cut list as CSV", "cuts.csv"],
  ["Labels for a printer, CSV", "wire-labels.csv"],
] as const;

/** Every wire with its length to cut, its ends and labels; and from which length each is cut. */
export function CutList({ build, selected, onSelect }: Props) {
  const { design } = useDesign();
  if (!build.pieces.length) return <p className="faint">No wire yet: lay out the power path first.</p>;
  return (
    <>
      <div className="table-scroll">
        <table className="sheet-table">
          <thead>
            <tr>
              <th style={{ minWidth: 190 }}>wire</th>
              <th>colour</th>
              <th>gauge</th>
              <th className="num">cut</th>
              <th>one end</th>
              <th>other end</th>
              <th>labels</th>
            </tr>
          </thead>
          <tbody>
            {build.pieces.map((piece) => (
              <tr
                key={piece.key}
                data-row={piece.key}
                className={AT_PIECE + piece.key === selected || isFor([piece.place], selected) ? "selected" : ""}
                onClick={(event) => event.target instanceof HTMLTableCellElement && onSelect(AT_PIECE + piece.key)}
              >
                <td>
                  <button
                    type="button"
                    className="btn btn-bare btn-sm p-0 text-start"
                    onClick={() => onSelect(AT_PIECE + piece.key)}
                  >
                    {piece.ends.map((end) => end.name).join(" – ")}
                  </button>
                </td>
                <td>
                  <Swatch piece={piece} />
                </td>
                <td className="text-nowrap">{piece.gauge}</td>
                <td className="num text-nowrap">
                  {piece.count > 1 && `${piece.count} × `}
                  <Fig figure={piece.cut} />
                </td>
                {piece.ends.map((end, n) => (
                  <td key={n} className="text-nowrap">
                    {end.hole ? `lug ${end.hole}` : end.kind}
                  </td>
                ))}
                <td className="faint">
                  {piece.ends.map((end, n) => (
                    <span key={n} className="text-nowrap d-block">
                      {end.label}
                    </span>
                  ))}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <div className="d-flex flex-wrap align-items-center gap-2 mt-2">
        {FILES.map(([label, file]) => (
          <a key={file} className="btn btn-bare btn-sm" href={`/api/designs/${design.id}/${file}`} download>
            {label}
          </a>
        ))}
        <LabelSheets file="wire-labels.pdf" label="Labels, PDF" />
      </div>
      <h2 className="form-group-title">What is cut from which length</h2>
      <div className="form-grid">
        <SelectField pointer="/assembly/wire_sold" label="Wire is bought" list="Assembly.wire_sold" />
        <QuantityInput pointer="/assembly/wire_spare" label="To spare" show={percent} />
      </div>
      <Rolls build={build} />
    </>
  );
}

/** The lengths of wire to buy, each with the pieces that are cut from it and what is left. */
function Rolls({ build }: { build: Build }) {
  return (
    <ul className="rolls">
      {build.rolls.map(({ line, roll }, n) => {
        const what = build.lines.find((l) => l.key === line);
        const colour = line.split(":").at(-1) ?? "";
        return (
          <li key={n}>
            <span className="roll-name">
              {what?.what}, {roll.owned ? "there already " : ""}
              {roll.length}
            </span>
            <span className="roll-bar" role="img" aria-label={`${roll.cuts.join(", ")}; ${roll.left} left`}>
              {roll.shares.map((share, k) => (
                <span
                  key={k}
                  className={`roll-cut wire-${colour}`}
                  style={{ flexBasis: `${share * 100}%` }}
                  title={roll.cuts[k]}
                >
                  {share > 0.08 && roll.cuts[k]}
                </span>
              ))}
            </span>
            <span className="faint roll-left">{roll.left} left</span>
          </li>
        );
      })}
    </ul>
  );
}

function Swatch({ piece }: { piece: BuildPiece }) {
  return (
    <span className="text-nowrap">
      <span className={`swatch wire-${piece.cores > 1 ? "cable" : piece.colour}`} aria-hidden />
      {piece.cores > 1 ? `${piece.cores} cores` : piece.colour}
    </span>
  );
}
