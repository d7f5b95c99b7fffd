import { said } from "../../design/units";
import { useShown } from "../../figures/units";
import Button from "react-bootstrap/Button";
import { useSelection } from "../../design/selection";
import { useDesign, useStore } from "../../design/store";
import { ChoiceRow } from "../../figures/ChoiceRow";
import { CheckField } from "../../figures/fields";
import { FigureRow } from "../../figures/FigureRow";
import { QuantityInput } from "../../figures/QuantityInput";
import { RunDetails } from "./RunDetails";

/** The shunt, with the meter's supply lead. */
export function ShuntDetails() {
  const store = useStore();
  const size = useShown("mm");
  const [, select] = useSelection();
  return (
    <>
      <div className="crumb">Power path · negative side</div>
      <h2>Shunt</h2>
      <p className="faint">
        Between the pack's negative post and the negative busbar. What goes round it is not counted.
      </p>
      <dl className="figure-list">
        <ChoiceRow path="power/shunt/rating" label="Rating" />
        <FigureRow label="Greatest running current" path="power/current" />
        <FigureRow label="Sized for" path="power/shunt/design" />
      </dl>
      <div className="form-grid mt-2">
        <QuantityInput
          pointer="/power/shunt/meter_v"
          label="Its meter stands"
          unit="V"
          optional
          placeholder="typical"
        />
      </div>
      <h3 className="mt-3">Supply lead of its meter</h3>
      <dl className="figure-list">
        <FigureRow label="Fuse at the post" path="power/shunt/run/fuse" />
        <FigureRow label="Fault at its end" path="power/shunt/run/fault" />
      </dl>
      <CheckField pointer="/power/shunt/lead_fused" label={`A small fuse at the post, within ${said(size, 50)}`} />
      <RunDetails at="/power/shunt/lead" figures="power/shunt/run" />
      <Button
        variant="quiet"
        size="sm"
        className="mt-2 mb-2"
        onClick={() => {
          store.put("/power/shunt", null, "Shunt taken out");
          select("");
        }}
      >
        Take out
      </Button>
    </>
  );
}

/** The main negative, from the post to the negative bar. */
export function NegativeDetails() {
  const store = useStore();
  const { design } = useDesign();
  const own = design.document.power.negative;
  const length = design.assessment.figures["power/negative/run/length"];
  return (
    <>
      <div className="crumb">Power path · negative side</div>
      <h2>Main negative</h2>
      <p className="faint">
        From the pack's negative post over the shunt to the negative bar. It carries what all positive runs bring, and
        has no fuse of its own.
      </p>
      <RunDetails at={own ? "/power/negative" : ""} figures="power/negative/run" />
      <Button
        variant="quiet"
        size="sm"
        className="mt-2 mb-2"
        onClick={() =>
          store.put(
            "/power/negative",
            own ? null : { length_m: Number(length?.value ?? 0.5) },
            own ? "Main negative as the positive" : "Main negative decided for itself",
          )
        }
      >
        {own ? "As the positive again" : "Give it a length and gauge of its own"}
      </Button>
    </>
  );
}
