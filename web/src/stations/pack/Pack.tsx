import { useSelection } from "../../app/selection";
import { StationFrame } from "../../app/StationFrame";
import { useDesign, useStore } from "../../app/store";
import { PackDrawing } from "../../drawings/PackDrawing";
import { Waterfall } from "../../drawings/Waterfall";
import { ChoiceRow } from "../../figures/ChoiceRow";
import { SelectField } from "../../figures/fields";
import { Fig } from "../../figures/Figure";
import { QuantityInput } from "../../figures/QuantityInput";

const CHEMISTRIES = [
  { value: "lfp", label: "LFP" },
  { value: "nmc", label: "NMC" },
];
const percent = (value: unknown) =>
  typeof value === "number" ? `${Number((value * 100).toPrecision(4))} %` : String(value ?? "");

const FORMS = {
  cells: { label: "loose cells", start: { form: "cells", chemistry: "lfp", cell: { capacity_ah: 100 } } },
  battery: {
    label: "one finished battery",
    start: { form: "battery", chemistry: "lfp", series: 4, capacity_ah: 100, continuous_a: 100 },
  },
} as const;

const GLANCE: [string, string][] = [
  ["Cells in all", "pack/cells"],
  ["Resistance", "pack/resistance"],
  ["Fault at the posts", "pack/fault"],
  ["Gives", "pack/continuous"],
  ["Burst", "pack/burst"],
  ["Mass", "pack/mass"],
  ["Cost", "pack/cost"],
];

export default function Pack() {
  const store = useStore();
  const { design } = useDesign();
  const [selected] = useSelection();
  const pack = design.document.pack;
  const form = pack?.form ?? "cells";
  const limit =
    form === "cells" ? ["limit_cells", "burst_cells", "board", "burst_board"] : ["limit_battery", "burst_battery"];
  return (
    <StationFrame
      station="pack"
      title="Pack"
      lead={
        <>
          <Fig path="pack/v_nom" />, <Fig path="pack/capacity" />: <Fig path="pack/nominal" /> nominal,{" "}
          <Fig path="power/available" /> usable on the coldest day. Gives <Fig path="pack/continuous" />, asked for{" "}
          <Fig path="power/current" />.
        </>
      }
      details={selected.startsWith("/pack/") || selected === "/pack" ? <PackDetails form={form} /> : undefined}
      glance={GLANCE}
      caution="A pack cannot be switched off. Cover every post but the one in hand, rings and watches off, insulated tools, eye protection. Never charge it unattended or in an escape route."
    >
      <div className="tabs" role="group" aria-label="Form of the pack">
        {Object.entries(FORMS).map(([key, { label, start }]) => (
          <button
            key={key}
            type="button"
            className="tab"
            aria-pressed={form === key}
            onClick={() =>
              form !== key && store.put("/pack", { ...start, chemistry: pack?.chemistry ?? "lfp" }, `Pack of ${label}`)
            }
          >
            {label}
          </button>
        ))}
      </div>
      <PackDrawing />
      <div className="form-grid mt-1 mb-3">
        <SelectField pointer="/pack/chemistry" label="Chemistry" options={CHEMISTRIES} />
        {form === "cells" ? (
          <>
            <SelectField
              pointer="/pack/cell/shape"
              label="Cell"
              options={[
                { value: "prismatic", label: "prismatic" },
                { value: "cylindrical", label: "cylindrical" },
              ]}
            />
            <QuantityInput pointer="/pack/cell/capacity_ah" label="Capacity of one" unit="Ah" />
            <QuantityInput
              pointer="/pack/series"
              label="In series (S)"
              optional
              placeholder={`auto: ${design.assessment.figures["pack/series"]?.text}`}
            />
            <QuantityInput
              pointer="/pack/parallel"
              label="In parallel (P)"
              optional
              placeholder={`auto: ${design.assessment.figures["pack/parallel"]?.text}`}
            />
            <QuantityInput
              pointer="/pack/cell/resistance_mohm"
              label="1 kHz resistance of one"
              unit="mΩ"
              optional
              placeholder="typical"
            />
            <QuantityInput
              pointer="/pack/cell/continuous_a"
              label="Continuous limit of one"
              unit="A"
              optional
              placeholder="typical"
            />
            <QuantityInput pointer="/pack/cell/mass_kg" label="Mass of one" unit="kg" optional placeholder="typical" />
            <QuantityInput
              pointer="/pack/cell/price"
              label="Price of one"
              unit={design.document.brief.currency}
              optional
              placeholder="typical"
            />
          </>
        ) : (
          <>
            <QuantityInput pointer="/pack/series" label="Cells in series inside" />
            <QuantityInput pointer="/pack/capacity_ah" label="Capacity" unit="Ah" />
            <QuantityInput pointer="/pack/continuous_a" label="Gives continuously" unit="A" />
            <QuantityInput
              pointer="/pack/burst_a"
              label="Gives in a burst"
              unit="A"
              optional
              placeholder="typical: twice"
            />
            <QuantityInput
              pointer="/pack/resistance_mohm"
              label="Resistance"
              unit="mΩ"
              optional
              placeholder="typical"
            />
            <QuantityInput pointer="/pack/mass_kg" label="Mass" unit="kg" optional placeholder="typical" />
            <QuantityInput
              pointer="/pack/price"
              label="Price"
              unit={design.document.brief.currency}
              optional
              placeholder="typical"
            />
          </>
        )}
        <QuantityInput
          pointer="/pack/depth"
          label="Planned depth of discharge"
          show={percent}
          optional
          placeholder="daily window"
        />
        <QuantityInput
          pointer="/pack/age_factor"
          label="Capacity kept with age"
          show={percent}
          optional
          placeholder="typical: 90 %"
        />
      </div>
      <h2 className="mb-1">Where the energy goes</h2>
      <Waterfall />
      <table className="sheet-table mt-3">
        <thead>
          <tr>
            <th>limit</th>
            <th className="num">continuous</th>
            <th className="num">burst</th>
          </tr>
        </thead>
        <tbody>
          {Array.from({ length: limit.length / 2 }, (_, i) => limit.slice(i * 2, i * 2 + 2)).map(
            ([continuous, burst]) => (
              <tr key={continuous}>
                <td>
                  {continuous === "limit_cells"
                    ? "cells"
                    : continuous === "board"
                      ? "protection board"
                      : "the battery, by its sheet"}
                </td>
                <td className="num">
                  <Fig path={`pack/${continuous}`} />
                </td>
                <td className="num">
                  {burst &&
                    (design.assessment.figures[`pack/${burst}`] ? (
                      <Fig path={`pack/${burst}`} />
                    ) : (
                      <Fig path="pack/burst" />
                    ))}
                </td>
              </tr>
            ),
          )}
          <tr>
            <td>asked for, by the schedule</td>
            <td className="num">
              <Fig path="power/current" />
            </td>
            <td className="num">
              <Fig path="power/surge" />
            </td>
          </tr>
        </tbody>
      </table>
      <dl className="figure-row mt-3 mb-0">
        {(
          [
            ["resistance", "pack/resistance"],
            ["fault current at the posts", "pack/fault"],
            ["least and greatest voltage", "pack/v_min", "pack/v_max"],
            ["mass", "pack/mass"],
            ["cost", "pack/cost"],
          ] as const
        ).map(([name, ...paths]) => (
          <div key={name}>
            <dt className="name fw-normal">{name}</dt>
            <dd className="big mb-0">
              {paths.map((path, i) => (
                <span key={path}>
                  {i > 0 && " – "}
                  <Fig path={path} />
                </span>
              ))}
            </dd>
          </div>
        ))}
      </dl>
    </StationFrame>
  );
}

function PackDetails({ form }: { form: string }) {
  return (
    <>
      <div className="crumb">Pack</div>
      <h2>{form === "cells" ? "Cells and board" : "Finished battery"}</h2>
      <dl className="figure-list">
        {form === "cells" && (
          <>
            <ChoiceRow path="pack/series" label="In series" />
            <ChoiceRow path="pack/parallel" label="In parallel" />
            <ChoiceRow path="pack/board" label="Protection board" />
          </>
        )}
        {(
          [
            ["Usable, coldest", "power/available"],
            ["Gives", "pack/continuous"],
            ["Burst", "pack/burst"],
            ["Fault at the posts", "pack/fault"],
          ] as const
        ).map(([name, path]) => (
          <div key={path}>
            <dt>{name}</dt>
            <dd>
              <Fig path={path} />
            </dd>
          </div>
        ))}
      </dl>
    </>
  );
}
