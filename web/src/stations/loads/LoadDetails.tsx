import Button from "react-bootstrap/Button";
import { useDesign } from "../../design/store";
import { useOptions, useReference } from "../../figures/reference";
import { CheckField, SelectField } from "../../figures/fields";
import { FigureRow } from "../../figures/FigureRow";
import { More } from "../../figures/More";
import { percent, QuantityInput } from "../../figures/QuantityInput";
import { usePending } from "../../figures/typed";
import { DaysOn } from "../../figures/DaysOn";
import { DutyInput } from "./DutyInput";
import { PowerEntry } from "./PowerEntry";
import { useSupplies, useSupplyMeaning } from "./supplies";

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
  const { design } = useDesign();
  const groups = useOptions("Load.start_group");
  const supplies = useReference()?.supplies ?? [];
  const kinds = useReference()?.kinds;
  const suppliesOf = useSupplies();
  const supplyMeaning = useSupplyMeaning();
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
  const { banks } = design.document.power;
  const outlets = Object.entries(network).filter(([, node]) => node.part === "outlet");
  const plugged = Object.entries(design.plugged).find(([, keys]) => keys.includes(id))?.[0];
  const ac = load.supply === "ac";
  const surges = Number(load.surge ?? kinds?.find((k) => k.key === load.kind)?.surge ?? 1) > 1;
  return (
    <>
      <div className="crumb">Loads</div>
      <div className="part-head">
        <h2>{load.name}</h2>
        <span className="d-flex gap-2">
          <Button variant="quiet" size="sm" onClick={onDuplicate}>
            Duplicate
          </Button>
          <Button variant="quiet" size="sm" onClick={onRemove}>
            Take away
          </Button>
        </span>
      </div>
      <dl className="figure-list">
        <FigureRow label="One of them" path={`loads/${id}/watts`} />
        <FigureRow label="Running" path={`loads/${id}/running`} />
        <FigureRow label="Hours a day" path={`loads/${id}/hours`} />
        <FigureRow label="Energy a day" path={`loads/${id}/energy`} />
        {surges && <FigureRow label="Its start adds" path={`loads/${id}/surge_extra`} />}
        {ac && <FigureRow label="Apparent power" path={`loads/${id}/apparent`} />}
      </dl>
      <PowerEntry at={at} load={load} />
      <div className="form-grid mt-2">
        <SelectField pointer={`${at}/kind`} label="Kind" list="load-kind" />
        <SelectField pointer={`${at}/supply`} label="Fed by" options={suppliesOf(load)} />
        <p className="meaning">{supplyMeaning(load)}</p>
        {Object.keys(banks).length > 0 && (
          <SelectField
            pointer={`${at}/bank`}
            label="From"
            empty="auto: whichever has an outlet"
            options={[
              { value: "pack", label: "the pack" },
              ...Object.entries(banks).map(([value, bank]) => ({ value, label: bank.name })),
            ]}
            along={() => [{ op: "replace", path: `${at}/outlet`, value: null }]}
          />
        )}
        <SelectField
          pointer={`${at}/outlet`}
          label="Plugged into"
          empty={plugged ? `auto: ${network[plugged]?.name}` : "auto: no outlet"}
          options={outlets.map(([value, node]) => ({ value, label: node.name }))}
        />
        <DutyInput id={id} load={load} />
        {cycles && (
          <>
            <QuantityInput pointer={`${at}/cycle/on_min`} label="On for" unit="min" />
            <QuantityInput pointer={`${at}/cycle/off_min`} label="Then off for" unit="min" />
          </>
        )}
        {ac && <QuantityInput pointer={`${at}/power_factor`} label="Power factor" optional placeholder="typical" />}
        {load.supply === "dc_12v" && (
          <SelectField
            pointer={`${at}/steady`}
            label="Wants its 12 V steady"
            empty="as is typical of its kind"
            list="Load.steady"
          />
        )}
      </div>
      {design.document.loads.days > 1 && <DaysOn at={at} name={load.name} says="Runs on" />}
      {[design.document.pack, ...Object.values(banks)].some((source) => source.chemistry === "starting") && (
        <CheckField pointer={`${at}/engine_runs`} label="The engine runs while it is on" />
      )}
      {(ac || surges) && (
        <More label={ac ? "more: its start, its mains plate" : "more: its start"}>
          <div className="form-grid mt-2">
            {surges && (
              <>
                <QuantityInput pointer={`${at}/surge_s`} label="Surge lasts" unit="s" optional placeholder="typical" />
                <SelectField
                  pointer={`${at}/start_group`}
                  label="Starts at the same moment as"
                  empty="nothing else"
                  options={groups.map((g) => ({ ...g, label: `${g.label}${members(String(g.value))}` }))}
                />
              </>
            )}
            {ac && (
              <>
                <SelectField
                  pointer={`${at}/pure_sine`}
                  label="Needs a pure sine wave"
                  empty="as is typical of its kind"
                  list="Load.pure_sine"
                />
                <SelectField
                  pointer={`${at}/mains`}
                  label="Mains on its plate"
                  empty="as the brief's"
                  list="Load.mains"
                />
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
          {surges && load.count > 1 && <CheckField pointer={`${at}/start_together`} label="All units start at once" />}
          {ac && (
            <CheckField pointer={`${at}/needs_bond`} label="Refuses an output that floats, as a vehicle's cord does" />
          )}
        </More>
      )}
    </>
  );
}
