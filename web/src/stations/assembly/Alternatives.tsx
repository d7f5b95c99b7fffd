import { useDesign } from "../../design/store";
import { FigureRow } from "../../figures/FigureRow";
import { QuantityInput } from "../../figures/QuantityInput";

const AT = "/assembly/alternatives";
const MADE: [string, string][] = [
  ["This one, a usable kWh", "assembly/per_kwh"],
  ["Ready made, a kWh", `assembly/alternatives/ready_made_kwh`],
  ["Hire for a use", "assembly/alternatives/hire_use"],
  ["Uses until cheaper than hire", "assembly/alternatives/hire_uses"],
  ["Fuel for a use", "assembly/alternatives/fuel_use"],
  ["Uses until cheaper than a generator", "assembly/alternatives/fuel_uses"],
];

/** What else would do the same, by prices typed in. */
export function Alternatives() {
  const { figures } = useDesign().design.assessment;
  const known = MADE.filter(([, path]) => path in figures);
  return (
    <>
      <h2 className="form-group-title">Against what else would serve</h2>
      <div className="form-grid">
        <QuantityInput
          pointer={`${AT}/ready_made`}
          label="A ready-made one costs"
          optional
          placeholder="not compared"
        />
        <QuantityInput pointer={`${AT}/ready_made_wh`} label="It gives" unit="Wh" optional placeholder="as much" />
        <QuantityInput pointer={`${AT}/hire_day`} label="Hire for a day" optional placeholder="not compared" />
        <QuantityInput pointer={`${AT}/use_days`} label="Days of a use" />
        <QuantityInput pointer={`${AT}/generator`} label="A generator costs" optional placeholder="is there" />
        <QuantityInput pointer={`${AT}/fuel_price`} label="A litre of fuel" optional placeholder="not compared" />
        <QuantityInput pointer={`${AT}/fuel_l_h`} label="Litres an hour" optional placeholder="typical" />
        <QuantityInput pointer={`${AT}/use_h`} label="Hours of a use" unit="h" />
        <QuantityInput pointer={`${AT}/energy_price`} label="A kWh from the wall" optional placeholder="nothing" />
      </div>
      {known.length > 1 && (
        <dl className="figure-list mt-2 compared">
          {known.map(([label, path]) => (
            <FigureRow key={path} label={label} path={path} />
          ))}
        </dl>
      )}
    </>
  );
}
