import { useState } from "react";
import OverlayTrigger from "react-bootstrap/OverlayTrigger";
import Popover from "react-bootstrap/Popover";
import type { Figure } from "../api/client";
import { useMargin } from "../design/selection";
import { useDesign } from "../design/store";
import { Working } from "./Working";

/** A figure's value as text; sums of money get the design's currency. */
function useFigureText(): (figure: Figure) => string {
  const currency = useDesign().design.document.brief.currency;
  return (figure) => (figure.unit === "money" ? `${figure.text} ${currency}` : (figure.text ?? ""));
}

/** A figure that the core computed: hover or focus shows its working, a click pins it in the margin. */
export function Fig({ path, figure, text }: { path?: string; figure?: Figure; text?: string }) {
  const figures = useDesign().design.assessment.figures;
  const { pin } = useMargin();
  const say = useFigureText();
  const [shown, setShown] = useState(false);
  const here = path ?? figure?.path;
  const found = (here ? figures[here] : undefined) ?? figure;
  if (!found) return <span className="faint">–</span>;
  const whole = say(found);
  // What is shown is part of what is read out.
  const said = text && !whole.includes(text) ? text : whole;
  const label = `${found.label || found.symbol}: ${said}, how it was worked out`;
  return (
    <OverlayTrigger
      trigger={["hover", "focus"]}
      placement="bottom"
      show={shown}
      onToggle={setShown}
      delay={{ show: 160, hide: 60 }}
      overlay={
        <Popover>
          <Popover.Body className="p-0">
            <Working figure={found} />
          </Popover.Body>
        </Popover>
      }
    >
      <button
        type="button"
        className="figure-button"
        aria-label={label}
        onClick={(event) => {
          event.stopPropagation();
          setShown(false);
          pin(here ? { ...found, path: here } : found);
        }}
      >
        {text ?? say(found)}
      </button>
    </OverlayTrigger>
  );
}

/** A sentence in which `{name}` stands for a figure. */
export function Sentence({ text, figures }: { text: string; figures: Record<string, Figure> }) {
  return (
    <>
      {text.split(/(\{[^}]+\})/).map((part, i) => {
        const figure = part.startsWith("{") ? figures[part.slice(1, -1)] : undefined;
        return figure ? <Fig key={i} figure={figure} /> : <span key={i}>{part}</span>;
      })}
    </>
  );
}
