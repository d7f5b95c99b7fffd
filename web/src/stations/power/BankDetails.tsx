import { otherCells, useReference } from "../../figures/reference";
import Button from "react-bootstrap/Button";
import { useSelection } from "../../design/selection";
import { useDesign, useStore } from "../../design/store";
import { SelectField, TextField } from "../../figures/fields";
import { FigureRow } from "../../figures/FigureRow";
import { QuantityInput } from "../../figures/QuantityInput";

/** A second bank with a job of its own. */
export function BankDetails({ id }: { id: string }) {
  const store = useStore();
  const { design } = useDesign();
  const cells = useReference()?.cells_12v;
  const [, select] = useSelection();
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
  const used = Object.values(design.document.power.network).some(
    (n) => n.feed === id || (n.part === "selector" && n.other === id),
  );
  return (
    <>
      <div className="crumb">Power path · second bank</div>
      <h2>{bank.name}</h2>
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
      {!used && (
        <Button
          variant="quiet"
          size="sm"
          className="mb-2"
          onClick={() => {
            store.change([{ op: "remove", path: at }], `Taken out: ${bank.name}`);
            select("");
          }}
        >
          Take out
        </Button>
      )}
    </>
  );
}
