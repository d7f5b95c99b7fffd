import { useMargin } from "../design/selection";
import { useDesign } from "../design/store";

/** Mean width of a letter of the condensed type, in its size. */
const LETTER = 0.4;

/** Text cut to a width in px at a size of condensed type, with an ellipsis. */
export function fit(text: string, width: number, size = 12.5): string {
  const most = Math.floor(width / (size * LETTER));
  return text.length <= most ? text : `${text.slice(0, Math.max(1, most - 1)).trimEnd()}…`;
}

/** A core figure inside a drawing: a click pins its working. The part it belongs to shows the same figure in the margin. */
export function SvgFigure({
  path,
  className = "small",
  ...at
}: {
  path: string;
  className?: string;
  x: number;
  y: number;
  textAnchor?: "start" | "middle" | "end";
}) {
  const { design } = useDesign();
  const { pin } = useMargin();
  const figure = design.assessment.figures[path];
  if (!figure) return null;
  return (
    <text
      {...at}
      className={`${className} svg-figure`}
      onClick={(event) => {
        event.stopPropagation();
        pin({ ...figure, path });
      }}
    >
      <title>{figure.label}: click for its working</title>
      {figure.text}
    </text>
  );
}
