import { otherCells, useReference } from "../../figures/reference";
import { useDesign } from "../../design/store";
import { SelectField, TextField } from "../../figures/fields";
import { FigureRow } from "../../figures/FigureRow";
import { QuantityInput } from "../../figures/QuantityInput";
import { AddBehind, AddOutlet } from "./AddParts";
import { TakeOut } from "./TakeOut";

/** A second bank with a job of its own. */
export function BankDetails({ id }: { id: string }) {
  const { design } = useDesign();
  const reference = useReference();
  const cells = reference?.cells_12v;
  const bank = design.document.power.banks[id];
  if (!bank) return null;
  const at = `/power/banks/${id}`;
  const figures = (
    [
      ["Running", "current"],
      ["Worst surge", "surge"],
      ["Asked between charges", "asked"],
      ["Usable", "usable"],
      ["Fault at its posts", "fault"],
    ] as const
  ).filter(([, name]) => `power/banks/${id}/${name}` in design.assessment.figures);
  return (
    <>
      <div className="crumb">Power path · second bank</div>
      <div className="part-head">
        <h2>{bank.name}</h2>
        <TakeOut key={`${id}-out`} id={id} name={bank.name} next="" />
      </div>
      <dl className="figure-list">
        {figures.map(([label, name]) => (
          <FigureRow key={name} label={label} path={`power/banks/${id}/${name}`} />
        ))}
      </dl>
      <div className="form-grid mt-2 mb-2">
        <TextField pointer={`${at}/name`} label="Name" />
        <SelectField pointer={`${at}/job`} label="Its job" list="SecondBank.job" />
        <SelectField
          pointer={`${at}/chemistry`}
          label="Chemistry"
          list="chemistry"
          along={(value) => otherCells(cells, bank.chemistry, value, `${at}/series`)}
        />
        <QuantityInput pointer={`${at}/series`} label="Cells in series" />
        <QuantityInput pointer={`${at}/capacity_ah`} label="Capacity" unit="Ah" />
        <QuantityInput pointer={`${at}/continuous_a`} label="Gives continuously" unit="A" />
        <QuantityInput pointer={`${at}/burst_a`} label="In a burst" unit="A" optional placeholder="typical: twice" />
        <QuantityInput pointer={`${at}/resistance_mohm`} label="Resistance" unit="mΩ" optional placeholder="typical" />
      </div>
      <AddOutlet source={id} />
      <AddBehind id={id} name={bank.name} kinds={reference?.parts ?? []} />
    </>
  );
}
