import { ChoiceRow } from "../../figures/ChoiceRow";
import { SelectField } from "../../figures/fields";
import { FigureRow } from "../../figures/FigureRow";
import { QuantityInput } from "../../figures/QuantityInput";
import { useDesign } from "../../design/store";

const FIGURES: [string, string][] = [
  ["ampacity", "Ampacity"],
  ["withstand", "A short asks for"],
  ["loading", "Loaded to"],
  ["drop", "Drop"],
  ["heat", "Heat"],
];

/** A run of cable: its figures, and what is decided of it; nothing to decide where it mirrors another (`at` is empty). */
export function RunDetails({ at, figures }: { at: string; figures: string }) {
  const known = useDesign().design.assessment.figures;
  return (
    <>
      <dl className="figure-list">
        {at ? (
          <ChoiceRow path={`${figures}/gauge`} label="Gauge" />
        ) : (
          <>
            <FigureRow path={`${figures}/gauge`} label="Gauge" />
            <FigureRow path={`${figures}/length`} label="Length" />
          </>
        )}
        {FIGURES.filter(([name]) => `${figures}/${name}` in known).map(([name, label]) => (
          <FigureRow key={name} label={label} path={`${figures}/${name}`} />
        ))}
      </dl>
      {at && (
        <div className="form-grid mt-2">
          <QuantityInput pointer={`${at}/length_m`} label="Length, one way" unit="m" />
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
    </>
  );
}
