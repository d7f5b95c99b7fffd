import type { Build, BuildPiece } from "../../api/client";
import { useSelection } from "../../design/selection";
import { Fig } from "../../figures/Figure";
import { AT_STEP } from "./build";

/** A piece of wire: its length, its ends with torque and label; the step that makes it. */
export function PieceDetails({ piece, build }: { piece: BuildPiece; build: Build }) {
  const [, select] = useSelection();
  const steps = build.steps.filter((s) => s.pieces.includes(piece.key));
  return (
    <>
      <p className="crumb">
        wire · {piece.gauge} {piece.cores > 1 ? `cable of ${piece.cores} cores` : piece.colour}
      </p>
      <h2>{piece.ends.map((end) => end.name).join(" – ")}</h2>
      <dl className="figure-list">
        <EndRows piece={piece} />
      </dl>
      <p className="mt-2">
        {steps.map((s) => (
          <button
            key={s.key}
            type="button"
            className="btn btn-bare btn-sm ps-0"
            onClick={() => select(AT_STEP + s.key)}
          >
            step {s.number}: {s.title}
          </button>
        ))}
      </p>
    </>
  );
}

/** Length and ends of a piece as lines of a list of figures. */
export function EndRows({ piece }: { piece: BuildPiece }) {
  const count = piece.count > 1 ? `${piece.count} × ` : "";
  return (
    <>
      <div>
        <dt>
          {piece.gauge} {piece.cores > 1 ? "cable" : piece.colour}, cut
        </dt>
        <dd>
          {count}
          <Fig figure={piece.cut} />
        </dd>
      </div>
      {piece.ends.map((end, n) => (
        <div key={n}>
          <dt>{end.name}</dt>
          <dd className="text-end">
            {end.hole ? `lug ${end.hole}, ${end.torque}` : end.terminal}
            <span className="faint d-block">
              {end.kind === "lug" && end.die === "hex die" ? `hex die ${piece.gauge}, barrel ${end.barrel}` : end.die}
              {", label "}
              <span className="wire-label">{end.label}</span>
            </span>
          </dd>
        </div>
      ))}
    </>
  );
}
