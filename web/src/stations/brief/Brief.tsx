import { StationFrame } from "../StationFrame";
import { useDesign } from "../../design/store";
import { SelectField, TextField } from "../../figures/fields";
import { Fig } from "../../figures/Figure";
import { percent, QuantityInput } from "../../figures/QuantityInput";
import { RhythmDrawing } from "./RhythmDrawing";

const clock = (value: unknown) =>
  typeof value === "number"
    ? `${String(Math.floor(value)).padStart(2, "0")}:${String(Math.round((value % 1) * 60)).padStart(2, "0")}`
    : String(value ?? "");

const GLANCE: [string, string][] = [
  ["Inside the box, hottest", "brief/inside"],
  ["Asked between charges", "power/drawn_away"],
  ["Usable, coldest", "power/available"],
  ["Mass of the pack", "pack/mass"],
  ["Cost of the pack", "pack/cost"],
];

export default function Brief() {
  const { design } = useDesign();
  const currency = design.document.brief.currency;
  const text = (path: string) => design.assessment.figures[path]?.text;
  return (
    <StationFrame
      station="brief"
      title="Brief"
      lead={
        <>
          <Fig path="brief/hours_away" /> between charges, from <Fig path="brief/site_min" /> to{" "}
          <Fig path="brief/site_max" />, up to <Fig path="brief/inside" /> inside the box.
        </>
      }
      glance={GLANCE}
      caution="A planning aid: local codes and licensed practice come before anything said here, above all for what is joined to mains or buildings."
    >
      <RhythmDrawing />
      <div className="mt-3">
        <TextField pointer="/brief/purpose" label="Purpose: what must run, where there is no socket" rows={2} />
      </div>
      <h2 className="form-group-title">Site</h2>
      <div className="form-grid">
        <QuantityInput pointer="/brief/site_min_c" label="Coldest" unit="°C" />
        <QuantityInput pointer="/brief/site_max_c" label="Hottest" unit="°C" />
        <QuantityInput
          pointer="/brief/inside_rise_k"
          label="Inside over outside"
          unit="K"
          optional
          placeholder={`typical: ${text("brief/inside_rise")}`}
        />
        <SelectField pointer="/brief/exposure" label="Wet or dry" list="Brief.exposure" />
        <SelectField pointer="/brief/outdoors" label="Used outdoors" empty="not said" list="Brief.outdoors" />
      </div>
      <h2 className="form-group-title">Rhythm</h2>
      <div className="form-grid">
        <QuantityInput pointer="/brief/ready_h" label="Charged and unplugged at" show={clock} />
        <QuantityInput pointer="/brief/hours_away" label="Hours between charges" unit="h" />
        <QuantityInput pointer="/brief/reserve" label="Reserve left at the end" show={percent} />
        <QuantityInput pointer="/brief/growth" label="Growth allowed for" show={percent} />
      </div>
      <h2 className="form-group-title">Carrying and money</h2>
      <div className="form-grid">
        <SelectField pointer="/brief/carriage" label="Carried by" list="Brief.carriage" />
        <QuantityInput
          pointer="/brief/mass_limit_kg"
          label="May weigh at most"
          unit="kg"
          optional
          placeholder="no limit"
        />
        <QuantityInput pointer="/brief/budget" label="Budget" unit={currency} optional placeholder="none set" />
        <QuantityInput pointer="/brief/currency" label="Currency" />
      </div>
      <h2 className="form-group-title">Practice</h2>
      <div className="form-grid">
        <SelectField pointer="/brief/mains" label="Mains" list="Brief.mains" />
        <SelectField pointer="/brief/units" label="Units" list="Brief.units" />
        <SelectField pointer="/brief/gauge_system" label="Gauge shown as" list="Brief.gauge_system" />
        <SelectField pointer="/brief/wire_school" label="Wire-sizing school" list="Brief.wire_school" />
      </div>
    </StationFrame>
  );
}
