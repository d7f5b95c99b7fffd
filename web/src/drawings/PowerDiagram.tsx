/** The single-line diagram, with the marks of its findings. */
import type { Drawing, Severity } from "../api/client";
import { belongsTo } from "../design/selection";
import { useDesign } from "../design/store";
import { Drawn } from "./Drawn";

/** The least scale at which the diagram is shown, and what a finger needs, px. */
const SMALLEST = 0.72;
const FINGER = 45;

const WORST: Severity[] = ["stop", "mend", "note"];

interface Props {
  selected: string;
  onSelect: (pointer: string) => void;
  /** The diagram as folded by hand, or at a moment; the one that came with the design where there is none. */
  laid?: Drawing;
  onFold: (key: string) => void;
}

export function PowerDiagram({ selected, onSelect, laid, onFold }: Props) {
  const { design } = useDesign();
  const drawing = laid ?? design.diagram;
  const worst = (pointer: string) => {
    const own = design.assessment.findings.filter((finding) => belongsTo(finding.place, pointer));
    return WORST.find((severity) => own.some((finding) => finding.severity === severity));
  };
  return (
    <div className="squared">
      <Drawn
        drawing={drawing}
        label="Single-line diagram of the power path"
        selected={selected}
        onSelect={onSelect}
        onFold={onFold}
        worst={worst}
        reach={FINGER / SMALLEST}
        style={{
          minWidth: Math.min(drawing.width, 1400) * SMALLEST,
          maxHeight: `max(62vh, ${Math.round(drawing.height * 0.8)}px)`,
        }}
      />
    </div>
  );
}
