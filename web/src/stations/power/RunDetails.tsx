import { ChoiceRow } from "../../figures/ChoiceRow";
import { SelectField } from "../../figures/fields";
import { FigureRow } from "../../figures/FigureRow";
import { More } from "../../figures/More";
import { QuantityInput } from "../../figures/QuantityInput";
import { useDesign } from "../../design/store";

const FIRST: [string, string][] = [
  ["ampacity", "Ampacity"],
  ["loading", "Loaded to"],
  ["drop", "Drop"],
];
const FURTHER: [string, string][] = [
  ["withstand", "A short asks for"],
  ["heat", "Heat"],
];

/**
 * A run of cable: gauge, length and what they come to, the rest of what is decided of it behind "more".
 * Nothing is decided where it mirrors another (`at` is empty).
 */
export function RunDetails({ at, figures, title }: { at: string; figures: string; title?: string }) {
  const known = useDesign().design.assessment.figures;
  const there = (list: [string, string][]) =>
    list
      .filter(([name]) => `${figures}/${name}` in known)
      .map(([name, label]) => <FigureRow key={name} label={label} path={`${figures}/${name}`} />);
  return (
    <>
      {title && <h3 className="mt-3">{title}</h3>}
      <dl className="figure-list">
        {at ? (
          <ChoiceRow path={`${figures}/gauge`} label="Gauge" />
        ) : (
          <>
            <FigureRow path={`${figures}/gauge`} label="Gauge" />
            <FigureRow path={`${figures}/length`} label="Length" />
          </>
        )}
        {there(FIRST)}
      </dl>
      {at && (
        <div className="form-grid mt-2">
          <QuantityInput pointer={`${at}/length_m`} label="Length, one way" unit="m" />
        </div>
      )}
      <More label="more of the cable">
        <dl className="figure-list">{there(FURTHER)}</dl>
        {at && (
          <div className="form-grid mt-2">
            <QuantityInput pointer={`${at}/parallel`} label="Cables side by side" />
            <QuantityInput pointer={`${at}/bundled`} label="Conductors bundled" />
            <SelectField
              pointer={`${at}/terminal_c`}
              label="Terminals stand"
              empty="as the table"
              list="Run.terminal_c"
            />
            <SelectField pointer={`${at}/lug`} label="Hole of its lugs" empty="as the stud" list="Run.lug" />
            <SelectField pointer={`${at}/wall`} label="Through a wall" empty="no" list="Run.wall" />
            <SelectField pointer={`${at}/insulation_c`} label="Insulation" list="Run.insulation_c" />
            <SelectField
              pointer={`${at}/insulation`}
              label="Insulated with"
              empty="as is usual at that"
              list="Run.insulation"
            />
          </div>
        )}
      </More>
    </>
  );
}
