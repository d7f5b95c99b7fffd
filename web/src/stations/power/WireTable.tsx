import { useDesign, useStore } from "../../design/store";
import { useReference } from "../../figures/reference";
import { SelectField } from "../../figures/fields";
import { Fig } from "../../figures/Figure";
import { Mark } from "../../figures/Mark";
import { QuantityInput } from "../../figures/QuantityInput";
import { usePending } from "../../figures/typed";

/** Every run of cable: from, to, length, gauge, current, ampacity, drop, and what protects it. */
export function WireTable({ selected, onSelect }: { selected?: string; onSelect: (key: string) => void }) {
  const { design } = useDesign();
  const network = design.document.power.network;
  return (
    <div className="table-scroll">
      <table className="sheet-table wires">
        <thead>
          <tr>
            <th className="place">run to</th>
            <th className="place">from</th>
            <th className="num">length</th>
            <th>gauge</th>
            <th className="num">current</th>
            <th className="num">ampacity</th>
            <th className="num">drop</th>
            <th className="num">heat</th>
            <th>behind</th>
            <th>ends</th>
            <th>colour</th>
            <th>
              <span className="visually-hidden">worst finding</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {design.wires.map(({ key, start, fuse, fuse_figure, ends }) => {
            const at = `power/${key}/run`;
            const node = network[key]!;
            const worst = design.assessment.findings.find((f) => f.place.startsWith(`/power/network/${key}/run`));
            return (
              <tr key={key} data-row={key} className={selected === key ? "selected" : ""}>
                <td>
                  <button type="button" className="row-button" onClick={() => onSelect(key)}>
                    {node.name}
                  </button>
                </td>
                <td className="faint">{start}</td>
                <td className="num">
                  <QuantityInput
                    cell
                    pointer={`/power/network/${key}/run/length_m`}
                    label={`Length of the run to ${node.name}`}
                    show={(v) => (typeof v === "number" ? `${Number(v.toPrecision(4))} m` : String(v ?? ""))}
                  />
                </td>
                <td className="text-nowrap">
                  {(node.run?.parallel ?? 1) > 1 && `${node.run!.parallel} × `}
                  <GaugeOf run={key} name={node.name} />
                </td>
                <td className="num">
                  <Fig path={`power/${key}/current`} />
                </td>
                <td className="num">
                  <Fig path={`${at}/ampacity`} />
                </td>
                <td className="num">
                  <Fig path={`${at}/drop`} />
                </td>
                <td className="num">
                  <Fig path={`${at}/heat`} />
                </td>
                <td className="text-nowrap">
                  {fuse_figure ? <Fig path={fuse_figure} /> : <span className="faint">{fuse}</span>}
                </td>
                <td className="text-nowrap faint">{ends}</td>
                <td>
                  <SelectField
                    cell
                    pointer={`/power/network/${key}/run/colour`}
                    label={`Colour of the run to ${node.name}`}
                    empty="red"
                    list="Run.colour"
                  />
                </td>
                <td>{worst && <Mark kind={worst.severity} />}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <p className="faint mt-2 mb-0">
        Current is what runs at most by the schedule; drop and heat are at the current that each run is sized for, with
        inverters at their rating.
      </p>
    </div>
  );
}

/** The gauge of a run: auto as sized, or pinned to one. */
function GaugeOf({ run, name }: { run: string; name: string }) {
  const store = useStore();
  const { design } = useDesign();
  const gauges = useReference()?.options.gauge ?? [];
  const pointer = `/power/network/${run}/run/gauge`;
  const { value, problem } = usePending(pointer);
  const pinned = String(value ?? "");
  return (
    <>
      <select
        className={`cell-input gauge ${pinned ? "is-pinned" : ""}`}
        aria-label={`Gauge of the run to ${name}`}
        value={pinned}
        onChange={(event) => {
          const gauge = event.target.value || null;
          store.put(pointer, gauge, `Gauge to ${name}: ${gauge ?? "auto"}`);
        }}
      >
        <option value="">{design.assessment.figures[`power/${run}/run/gauge`]?.text}</option>
        <optgroup label="pinned to">
          {gauges.map((g) => (
            <option key={String(g.value)} value={String(g.value)}>
              {g.label}
            </option>
          ))}
        </optgroup>
      </select>
      {problem && <span className="problem">{problem}</span>}
    </>
  );
}
