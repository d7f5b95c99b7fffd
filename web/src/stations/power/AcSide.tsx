import { useShown } from "../../figures/units";
import { useSelection } from "../../design/selection";
import { useDesign } from "../../design/store";
import { SelectField } from "../../figures/fields";
import { Fig } from "../../figures/Figure";
import { QuantityInput } from "../../figures/QuantityInput";

/** The AC side: what each inverter gives, and outlet, cable, breaker and protection of each branch. */
export function AcSide() {
  const { design } = useDesign();
  const length = useShown("m");
  const [, select] = useSelection();
  const { network } = design.document.power;
  const inverters = Object.entries(network).filter(([, n]) => n.part === "inverter");
  const figures = design.assessment.figures;
  if (!inverters.length) {
    return (
      <div className="empty-state">
        <h2>No AC side</h2>
        <p>This station has no inverter: DC only is simpler, lighter, and loses less.</p>
      </div>
    );
  }
  return (
    <>
      {inverters.map(([key, node]) => {
        const at = `/power/network/${key}`;
        const behind = Object.entries(network).filter(([, n]) => n.feed === key);
        const breakers = behind.filter(([, n]) => n.part === "ac_breaker").map(([id]) => id);
        const outlets = Object.entries(network).filter(
          ([, n]) => n.part === "outlet" && (n.feed === key || breakers.includes(n.feed)),
        );
        const onLegs = outlets.some(([id]) => `power/${id}/leg` in figures);
        return (
          <section key={key}>
            <h2 className="form-group-title">
              {node.name}, <Fig path={`power/${key}/rating`} />
            </h2>
            <div className="form-grid mb-2">
              <SelectField
                pointer={`${at}/rcd`}
                label="Residual-current protection"
                empty="outdoors and in the wet"
                list="Inverter.rcd"
              />
              <SelectField pointer={`${at}/bond`} label="Neutral-to-earth bond" list="Inverter.bond" />
              <SelectField pointer={`${at}/transfer`} label="Transfer to another source" list="Inverter.transfer" />
              <SelectField pointer="/brief/mains" label="Gives" list="Brief.mains" />
            </div>
            <table className="sheet-table mb-3">
              <thead>
                <tr>
                  <th>outlet</th>
                  <th className="num">runs</th>
                  <th className="num">its circuit</th>
                  <th className="num">one socket</th>
                  <th>socket</th>
                  {onLegs && <th>leg</th>}
                  <th className="num">cable, {length.unit}</th>
                  <th>gauge</th>
                  <th className="num">breaker</th>
                </tr>
              </thead>
              <tbody>
                {outlets.map(([id, outlet]) => (
                  <tr key={id}>
                    <td>
                      <button type="button" className="row-button" onClick={() => select(`/power/network/${id}`)}>
                        {outlet.name}
                      </button>
                    </td>
                    <td className="num">
                      <Fig path={`power/${id}/current`} />
                    </td>
                    <td className="num">
                      <Fig path={`power/${id}/circuit`} />
                    </td>
                    <td className="num">
                      <Fig path={`power/${id}/asked`} />
                    </td>
                    <td>
                      <Fig path={`power/${id}/connector`} />
                    </td>
                    {onLegs && (
                      <td>
                        <Fig path={`power/${id}/leg`} />
                      </td>
                    )}
                    <td className="num">
                      <QuantityInput
                        cell
                        pointer={`/power/network/${id}/run/length_m`}
                        label={`AC cable to ${outlet.name}`}
                        unit="m"
                      />
                    </td>
                    <td>
                      {`power/${id}/run/gauge` in figures ? (
                        <Fig path={`power/${id}/run/gauge`} />
                      ) : (
                        <span className="faint">on its face</span>
                      )}
                    </td>
                    <td className="num">
                      {`power/${id}/ac_breaker` in figures ? (
                        <Fig path={`power/${id}/ac_breaker`} />
                      ) : breakers.includes(outlet.feed) ? (
                        <>
                          <Fig path={`power/${outlet.feed}/rating`} />{" "}
                          <span className="faint">{network[outlet.feed]!.name}</span>
                        </>
                      ) : (
                        <span className="faint">none needed</span>
                      )}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          </section>
        );
      })}
      <p className="caution">
        AC at any power can kill, and the inverter's capacitors stay charged. The bond is made only as the manual
        allows, once, never with a second source. Never a lead with two live plugs into a building: joining mains or
        buildings is licensed work under local code.
      </p>
    </>
  );
}
