import type { Node } from "../../api/client";
import { useDesign } from "../../app/store";
import { CheckField, SelectField } from "../../figures/fields";
import { QuantityInput } from "../../figures/QuantityInput";

const PINS = [
  { value: "shrouded", label: "shrouded" },
  { value: "exposed", label: "bare and live" },
];
const YES_NO = [
  { value: true, label: "yes" },
  { value: false, label: "no" },
];

/** What is decided of a part besides its size. */
export function OfItsKind({ at, node, hasRun }: { at: string; node: Node; hasRun: boolean }) {
  const { design } = useDesign();
  const { network, banks } = design.document.power;
  const sheathed = hasRun && <CheckField pointer={`${at}/run/sheathed`} label="Cable sheathed and fixed" />;
  switch (node.part) {
    case "protection":
      return (
        <>
          <CheckField pointer={`${at}/polarised`} label="Polarised breaker" />
          {sheathed}
        </>
      );
    case "switch":
      return (
        <>
          <div className="form-grid mt-2">
            <SelectField
              pointer={`${at}/reach`}
              label="How one gets at it"
              options={[
                { value: "outside", label: "outside, with one hand" },
                { value: "inside", label: "with the lid open" },
                { value: "two hands", label: "with two hands" },
              ]}
            />
            <QuantityInput
              pointer={`${at}/cutoff_v`}
              label="Opens by itself below"
              unit="V"
              optional
              placeholder="never"
            />
            {node.relay && (
              <QuantityInput pointer={`${at}/coil_w`} label="Its coil draws" unit="W" optional placeholder="typical" />
            )}
          </div>
          <CheckField pointer={`${at}/dc_rated`} label="Rated for DC" />
          <CheckField pointer={`${at}/relay`} label="It is a relay" />
          {sheathed}
        </>
      );
    case "selector":
      return (
        <>
          <SelectField
            pointer={`${at}/other`}
            label="The other way it is fed from"
            options={[
              { value: "pack", label: "the pack" },
              ...Object.entries(banks).map(([value, bank]) => ({ value, label: bank.name })),
              ...Object.entries(network).map(([value, other]) => ({ value, label: other.name })),
            ]}
          />
          <CheckField pointer={`${at}/interlocked`} label="Breaks one before it makes the other" />
        </>
      );
    case "plug":
      return <SelectField pointer={`${at}/pins`} label="Contacts on the live side" options={PINS} />;
    case "busbar":
      return <QuantityInput pointer={`${at}/studs`} label="Studs" optional placeholder="one for each lug" />;
    case "inverter":
      return (
        <>
          <div className="form-grid mt-2">
            <SelectField
              pointer={`${at}/waveform`}
              label="Waveform"
              options={[
                { value: "pure", label: "pure sine" },
                { value: "modified", label: "modified sine" },
              ]}
            />
            <SelectField pointer={`${at}/precharge`} label="Pre-charge" empty="where it is large" options={YES_NO} />
          </div>
          <CheckField pointer={`${at}/left_on`} label="Left on around the clock" />
        </>
      );
    case "converter":
      return (
        <div className="form-grid mt-2">
          <QuantityInput pointer={`${at}/idle_w`} label="No-load draw" unit="W" optional placeholder="typical" />
          <QuantityInput pointer={`${at}/cutoff_v`} label="Switches off below" unit="V" optional placeholder="never" />
          <QuantityInput
            pointer={`${at}/window_min_v`}
            label="Takes at least"
            unit="V"
            optional
            placeholder="not said"
          />
          <QuantityInput
            pointer={`${at}/window_max_v`}
            label="Takes at most"
            unit="V"
            optional
            placeholder="not said"
          />
        </div>
      );
    case "outlet":
      return (
        <div className="form-grid mt-2">
          <SelectField pointer={`${at}/pins`} label="Contacts" options={PINS} />
          <QuantityInput
            pointer={`${at}/charge_in_a`}
            label="Charged in through it with"
            unit="A"
            optional
            placeholder="it is not"
          />
        </div>
      );
    case "input":
      return (
        <div className="form-grid mt-2">
          <SelectField
            pointer={`${at}/source`}
            label="Brought in by"
            options={["mains charger", "solar", "vehicle", "another station"].map((s) => ({ value: s, label: s }))}
          />
          <QuantityInput pointer={`${at}/current_a`} label="Current" unit="A" />
        </div>
      );
    default:
      return null;
  }
}
