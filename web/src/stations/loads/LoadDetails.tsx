import Button from "react-bootstrap/Button";
import { useDesign, useStore } from "../../design/store";
import { useOptions, useReference } from "../../figures/reference";
import { CheckField, SelectField } from "../../figures/fields";
import { FigureRow } from "../../figures/FigureRow";
import { percent, QuantityInput } from "../../figures/QuantityInput";
import { usePending } from "../../figures/typed";
import { DaysOn } from "./DaysOfPattern";
import { PowerEntry } from "./PowerEntry";

/** What the margin says of one load. */
export function LoadDetails({
  id,
  onDuplicate,
  onRemove,
}: {
  id: string;
  onDuplicate: () => void;
  onRemove: () => void;
}) {
  const store = useStore();
  const { design } = useDesign();
  const groups = useOptions("Load.start_group");
  const supplies = useReference()?.supplies ?? [];
  const at = `/loads/items/${id}`;
  const cycles = Boolean(usePending(`${at}/cycle`).value);
  const load = design.document.loads.items?.[id];
  if (!load) return null;
  const network = design.document.power.network;
  const members = (group: string) => {
    const names = Object.entries(design.document.loads.items)
      .filter(([key, other]) => key !== id && other.start_group === group)
      .map(([, other]) => other.name);
    return names.length ? `: ${names.join(", ")}` : "";
  };
  const outlets = Object.entries(network).filter(([, node]) => node.part === "outlet");
  const plugged = Object.entries(design.plugged).find(([, keys]) => keys.includes(id))?.[0];
  return (
    <>
      <div className="crumb">Loads</div>
      <h2>{load.name}</h2>
      <dl className="figure-list">
        <FigureRow label="One of them" path={`loads/${id}/watts`} />
        <FigureRow label="Running" path={`loads/${id}/running`} />
        <FigureRow label="Hours a day" path={`loads/${id}/hours`} />
        <FigureRow label="Energy a day" path={`loads/${id}/energy`} />
        <FigureRow label="Its start adds" path={`loads/${id}/surge_extra`} />
        <FigureRow label="Apparent power" path={`loads/${id}/apparent`} />
      </dl>
      <PowerEntry at={at} load={load} />
      <div className="form-grid mt-2">
        <SelectField pointer={`${at}/kind`} label="Kind" list="load-kind" />
        <SelectField
          pointer={`${at}/outlet`}
          label="Plugged into"
          empty={plugged ? `auto: ${network[plugged]?.name}` : "auto: no outlet"}
          options={outlets.map(([value, node]) => ({ value, label: node.name }))}
        />
        <QuantityInput pointer={`${at}/power_factor`} label="Power factor" optional placeholder="typical" />
        <QuantityInput pointer={`${at}/surge_s`} label="Surge lasts" unit="s" optional placeholder="typical" />
        <SelectField
          pointer={`${at}/start_group`}
          label="Starts at the same moment as"
          empty="nothing else"
          options={groups.map((g) => ({ ...g, label: `${g.label}${members(String(g.value))}` }))}
        />
        {load.supply === "ac" && (
          <>
            <SelectField
              pointer={`${at}/pure_sine`}
              label="Needs a pure sine wave"
              empty="as is typical of its kind"
              list="Load.pure_sine"
            />
            <SelectField pointer={`${at}/mains`} label="Mains on its plate" empty="as the brief's" list="Load.mains" />
            <SelectField
              pointer={`${at}/direct`}
              label="Without its adapter it takes"
              empty="mains only"
              options={supplies.filter((s) => s.key !== "ac").map((s) => ({ value: s.key, label: s.label }))}
            />
            {load.direct && (
              <QuantityInput
                pointer={`${at}/adapter_efficiency`}
                label="Efficiency of its adapter"
                show={percent}
                optional
                placeholder="typical"
              />
            )}
          </>
        )}
      </div>
      {design.document.loads.days > 1 && <DaysOn at={at} load={load} />}
      <div className="mt-2">
        <CheckField pointer={`${at}/start_together`} label="All units start at once" />
        {load.supply === "ac" && (
          <CheckField pointer={`${at}/needs_bond`} label="Refuses an output that floats, as a vehicle's cord does" />
        )}
        {design.document.pack.chemistry === "starting" && (
          <CheckField pointer={`${at}/engine_runs`} label="The engine runs while it is on" />
        )}
        <div className="form-check">
          <input
            id={`${id}-cycle`}
            type="checkbox"
            className="form-check-input"
            checked={cycles}
            onChange={(event) =>
              store.put(
                `${at}/cycle`,
                event.target.checked ? { on_min: 10, off_min: 20 } : null,
                `${load.name} ${event.target.checked ? "cycles" : "runs on"}`,
              )
            }
          />
          <label className="form-check-label" htmlFor={`${id}-cycle`}>
            Cycles by itself
          </label>
        </div>
        {cycles && (
          <div className="form-grid">
            <QuantityInput pointer={`${at}/cycle/on_min`} label="On" unit="min" />
            <QuantityInput pointer={`${at}/cycle/off_min`} label="Off" unit="min" />
          </div>
        )}
      </div>
      <div className="d-flex gap-2 mt-2 mb-2">
        <Button variant="quiet" size="sm" onClick={onDuplicate}>
          Duplicate
        </Button>
        <Button variant="quiet" size="sm" onClick={onRemove}>
          Take away
        </Button>
      </div>
    </>
  );
}
