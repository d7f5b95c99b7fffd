import type { Figure } from "../api/client";
import { useMargin } from "../app/selection";
import { useDesign } from "../app/store";

/** Text cut to a width in px at a size of type, with an ellipsis. */
export function fit(text: string, width: number, size = 11.5): string {
  const most = Math.floor(width / (size * 0.5));
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
  const figure = design.assessment.figures[path] as Figure | undefined;
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
