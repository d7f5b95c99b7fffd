/** The fields of each thing a pack is made of. */
import { useDesign } from "../../design/store";
import { CheckField, SelectField } from "../../figures/fields";
import { More } from "../../figures/More";
import { QuantityInput } from "../../figures/QuantityInput";

function useAuto() {
  const { design } = useDesign();
  return (path: string) => {
    const text = design.assessment.figures[path]?.text;
    return text ? `auto: ${text}` : "typical";
  };
}

export function CellFields() {
  const { design, ahead } = useDesign();
  const auto = useAuto();
  const at = "/pack/cell";
  const { pack } = ahead;
  const round = pack.form === "cells" && pack.cell?.shape === "cylindrical";
  return (
    <>
      <h2 className="form-group-title">Cells</h2>
      <div className="form-grid">
        <QuantityInput pointer="/pack/series" label="In series (S)" optional placeholder={auto("pack/series")} />
        <QuantityInput pointer="/pack/parallel" label="In parallel (P)" optional placeholder={auto("pack/parallel")} />
        <SelectField pointer={`${at}/shape`} label="Cell" list="Cell.shape" />
        <QuantityInput pointer={`${at}/capacity_ah`} label="Capacity of one" unit="Ah" />
        <QuantityInput
          pointer={`${at}/resistance_mohm`}
          label="Resistance of one"
          unit="mΩ"
          optional
          placeholder="typical"
        />
        <SelectField pointer={`${at}/resistance_by`} label="Resistance measured" list="Cell.resistance_by" />
        <QuantityInput
          pointer={`${at}/continuous_a`}
          label="Continuous limit of one"
          unit="A"
          optional
          placeholder="typical"
        />
        <QuantityInput pointer={`${at}/charge_a`} label="Charge limit of one" unit="A" optional placeholder="typical" />
        <QuantityInput pointer={`${at}/mass_kg`} label="Mass of one" unit="kg" optional placeholder="typical" />
        <QuantityInput
          pointer={`${at}/price`}
          label="Price of one"
          unit={design.document.brief.currency}
          optional
          placeholder="typical"
        />
        <QuantityInput
          pointer={`${at}/width_mm`}
          label={round ? "Diameter" : "Width"}
          unit="mm"
          optional
          placeholder="typical"
        />
        {!round && (
          <QuantityInput pointer={`${at}/thickness_mm`} label="Thickness" unit="mm" optional placeholder="typical" />
        )}
        <div className="align-self-end">
          <CheckField pointer={`${at}/reclaimed`} label="Reclaimed cells" />
        </div>
      </div>
    </>
  );
}

export function BoardFields() {
  const auto = useAuto();
  const at = "/pack/board";
  return (
    <More label="Protection board">
      <div className="form-grid">
        <QuantityInput
          pointer={`${at}/continuous_a`}
          label="Continuous"
          unit="A"
          optional
          placeholder={auto("pack/board")}
        />
        <QuantityInput
          pointer={`${at}/burst_a`}
          label="Burst"
          unit="A"
          optional
          placeholder={auto("pack/board_burst")}
        />
        <QuantityInput
          pointer={`${at}/charge_a`}
          label="Charge limit"
          unit="A"
          optional
          placeholder={auto("pack/board_charge")}
        />
        <QuantityInput
          pointer={`${at}/series`}
          label="Made for cells in series"
          optional
          placeholder={auto("pack/board_series")}
        />
        <SelectField
          pointer={`${at}/chemistry`}
          label="Thresholds for"
          empty="the pack's chemistry"
          list="cell-chemistry"
        />
        <QuantityInput
          pointer={`${at}/cell_min_v`}
          label="Opens below, a cell"
          unit="V"
          optional
          placeholder="typical"
        />
        <QuantityInput
          pointer={`${at}/cell_max_v`}
          label="Stops charging above"
          unit="V"
          optional
          placeholder="typical"
        />
        <QuantityInput
          pointer={`${at}/balance_ma`}
          label="Balance current"
          unit="mA"
          optional
          placeholder={auto("pack/board_balance")}
        />
        <QuantityInput
          pointer={`${at}/own_draw_ma`}
          label="Own draw"
          unit="mA"
          optional
          placeholder={auto("pack/board_own_draw")}
        />
        <QuantityInput pointer={`${at}/resistance_mohm`} label="Resistance" unit="mΩ" optional placeholder="typical" />
        <SelectField
          pointer={`${at}/cold_lock`}
          list="Board.cold_lock"
          label="Locks charging in the cold"
          empty="auto: where the site asks for it"
        />
        <QuantityInput pointer={`${at}/sense/length_m`} label="Each sense lead" unit="m" />
        <div className="align-self-end">
          <CheckField pointer={`${at}/sense_fused`} label="A small fuse in each, at its cell" />
        </div>
      </div>
    </More>
  );
}

export function LinkFields() {
  const { design } = useDesign();
  const at = "/pack/link";
  const text = design.assessment.figures["pack/link"]?.text ?? "";
  return (
    <More
      label={
        <>
          Links between cells <span className="faint">{text}</span>
        </>
      }
    >
      <div className="form-grid">
        <SelectField pointer={`${at}/material`} label="Material" empty="auto" list="Link.material" />
        <QuantityInput pointer={`${at}/width_mm`} label="Width" unit="mm" optional placeholder="auto" />
        <QuantityInput pointer={`${at}/thickness_mm`} label="Thickness" unit="mm" optional placeholder="auto" />
        <QuantityInput pointer={`${at}/layers`} label="Layers" optional placeholder="auto" />
        <QuantityInput
          pointer={`${at}/resistance_mohm`}
          label="Measured resistance"
          unit="mΩ"
          optional
          placeholder="worked out"
        />
      </div>
      <p className="mt-2 mb-1">
        The collector of an end group, to its take-off{" "}
        <span className="faint">
          {design.assessment.figures["pack/collector"]?.text ?? "not needed: one cell a group"}
        </span>
      </p>
      <div className="form-grid">
        <SelectField pointer="/pack/gathers" label="Taken off" list="CellPack.gathers" />
        <SelectField pointer="/pack/collector/material" label="Material" empty="auto" list="Link.material" />
        <QuantityInput pointer="/pack/collector/width_mm" label="Width" unit="mm" optional placeholder="auto" />
        <QuantityInput pointer="/pack/collector/thickness_mm" label="Thickness" unit="mm" optional placeholder="auto" />
        <QuantityInput pointer="/pack/collector/layers" label="Layers" optional placeholder="auto" />
        <div className="align-self-end">
          <CheckField pointer="/pack/cell_fused" label="A fuse of its own for each cell" />
        </div>
      </div>
      <p className="faint small-figure mt-1 mb-0">
        File a corner of the strip and leave it in salt water overnight: plated steel rusts, pure nickel does not. Never
        solder to a can without a tab.
      </p>
    </More>
  );
}

export function BatteryFields({ what }: { what: string }) {
  const { design } = useDesign();
  const at = "/pack/battery";
  return (
    <>
      <h2 className="form-group-title">{what === "module" ? "One module" : "One battery"}, by its sheet</h2>
      <div className="form-grid">
        <QuantityInput pointer={`${at}/series`} label="Cells in series inside" />
        <QuantityInput pointer={`${at}/capacity_ah`} label="Capacity" unit="Ah" />
        <QuantityInput pointer={`${at}/continuous_a`} label="Gives continuously" unit="A" />
        <QuantityInput
          pointer={`${at}/burst_a`}
          label="Gives in a burst"
          unit="A"
          optional
          placeholder="typical: twice"
        />
        <QuantityInput pointer={`${at}/charge_a`} label="Charge limit" unit="A" optional placeholder="typical" />
        <QuantityInput
          pointer={`${at}/resistance_mohm`}
          label="Resistance by a DC step"
          unit="mΩ"
          optional
          placeholder="typical"
        />
        <QuantityInput
          pointer={`${at}/fault_a`}
          label="Its board limits a short to"
          unit="A"
          optional
          placeholder="it does not"
        />
        <QuantityInput pointer={`${at}/mass_kg`} label="Mass" unit="kg" optional placeholder="typical" />
        <QuantityInput
          pointer={`${at}/price`}
          label="Price"
          unit={design.document.brief.currency}
          optional
          placeholder="typical"
        />
        <QuantityInput
          pointer={`${at}/series_limit`}
          label="Its maker allows in series"
          optional
          placeholder="not known"
        />
        <QuantityInput
          pointer={`${at}/parallel_limit`}
          label="Its maker allows in parallel"
          optional
          placeholder="usual: 4"
        />
        <SelectField
          list="Battery.cold_lock"
          pointer={`${at}/cold_lock`}
          label="Locks charging in the cold"
          empty="not known"
        />
        <div className="align-self-end">
          <CheckField pointer={`${at}/sleeps`} label="Sleeps until woken" />
        </div>
      </div>
    </>
  );
}
