import type { Figure } from "../api/client";
import { useMargin } from "../app/selection";
import { useDesign } from "../app/store";

/** Mean width of a letter of the condensed type, in its size. */
const LETTER = 0.4;

/** Text cut to a width in px at a size of condensed type, with an ellipsis. */
export function fit(text: string, width: number, size = 12.5): string {
  const most = Math.floor(width / (size * LETTER));
  return text.length <= most ? text : `${text.slice(0, Math.max(1, most - 1)).trimEnd()}…`;
}

/** Text in at most two lines of a width. */
export function wrap(text: string, width: number, size = 12.5): string[] {
  const most = Math.floor(width / (size * LETTER));
  if (text.length <= most) return [text];
  // A figure stays with its unit.
  const joined = text.replace(/(\d) ([A-Z])/g, "$1\u00a0$2");
  const at = joined.lastIndexOf(" ", most);
  if (at < 1) return [fit(text, width, size)];
  return [joined.slice(0, at), fit(joined.slice(at + 1), width, size)];
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
