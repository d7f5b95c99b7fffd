import { said } from "../../design/units";
import { useShown } from "../../figures/units";
import { belongsTo } from "../../design/selection";
import { useDesign, useStore } from "../../design/store";
import { useReference } from "../../figures/reference";
import { SelectField } from "../../figures/fields";
import { Fig } from "../../figures/Figure";
import { Mark } from "../../figures/Mark";
import { QuantityInput } from "../../figures/QuantityInput";
import { usePending } from "../../figures/typed";

/** A length as the table has room for it. */
const digits = (value: unknown) =>
  typeof value === "number" ? String(Number(value.toPrecision(4))) : String(value ?? "");

/** Every run of cable: from, to, length, gauge, current, ampacity, drop, and what protects it. */
export function WireTable({ selected, onSelect }: { selected?: string; onSelect: (place: string) => void }) {
  const { design } = useDesign();
  const length = useShown("m");
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
          {design.wires.map((row) => {
            const worst = design.assessment.findings.find((f) => belongsTo(f.place, row.judged_at));
            return (
              <tr
                key={row.key}
                data-row={row.key}
                className={[selected && belongsTo(selected, row.place) && "selected", row.mirrors && "mirrors"]
                  .filter(Boolean)
                  .join(" ")}
              >
                <td>
                  <button type="button" className="row-button" onClick={() => onSelect(row.place)}>
                    {row.to}
                  </button>
                </td>
                <td className="faint">{row.start}</td>
                <td className="num">
                  {row.length_at ? (
                    <QuantityInput
                      cell
                      pointer={row.length_at}
                      label={`Length of the run to ${row.to}`}
                      unit="m"
                      inside
                      show={digits}
                    />
                  ) : row.mirrors ? (
                    <span className="faint">{said(length, row.length_m)}</span>
                  ) : (
                    <Fig path={`${row.figures}/length`} />
                  )}
                </td>
                <td className="text-nowrap">
                  {row.parallel > 1 && `${row.parallel} × `}
                  {row.at ? (
                    <GaugeOf run={row} />
                  ) : (
                    <span className="ps-2">
                      <Fig path={`${row.figures}/gauge`} />
                    </span>
                  )}
                </td>
                <td className="num">{row.current_figure && <Fig path={row.current_figure} />}</td>
                <td className="num">
                  <Fig path={`${row.figures}/ampacity`} />
                </td>
                <td className="num">{!row.mirrors && <Fig path={`${row.figures}/drop`} />}</td>
                <td className="num">{!row.mirrors && <Fig path={`${row.figures}/heat`} />}</td>
                <td>{row.fuse_figure ? <Fig path={row.fuse_figure} /> : <span className="faint">{row.fuse}</span>}</td>
                <td className="faint">
                  <span className="text-nowrap">{row.start_stud} –</span>{" "}
                  <span className="text-nowrap">{row.end_stud}</span>
                </td>
                <td>
                  {row.at ? (
                    <SelectField
                      cell
                      pointer={`${row.at}/colour`}
                      label={`Colour of the run to ${row.to}`}
                      empty={row.usual_colour.split(",")[0]}
                      list="Run.colour"
                    />
                  ) : (
                    <span className="faint ps-2">{row.usual_colour}</span>
                  )}
                </td>
                <td>{worst && <Mark kind={worst.severity} />}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <p className="faint mt-2 mb-0">
        Current is what runs at most by the schedule; drop and heat are at the current that each run is sized for, with
        inverters at their rating, and of both ways. A negative goes back beside its positive, of one gauge with it, to
        the negative bar.
      </p>
    </div>
  );
}

/** The gauge of a run: auto as sized, or pinned to one. */
function GaugeOf({ run }: { run: { at: string; figures: string; to: string } }) {
  const store = useStore();
  const { design } = useDesign();
  const gauges = useReference()?.options.gauge ?? [];
  const pointer = `${run.at}/gauge`;
  const { value, problem } = usePending(pointer);
  const pinned = String(value ?? "");
  return (
    <>
      <select
        className={`cell-input gauge ${pinned ? "is-pinned" : ""}`}
        aria-label={`Gauge of the run to ${run.to}`}
        value={pinned}
        onChange={(event) => {
          const gauge = event.target.value || null;
          store.put(pointer, gauge, `Gauge to ${run.to}: ${gauge ?? "auto"}`);
        }}
      >
        <option value="">{design.assessment.figures[`${run.figures}/gauge`]?.text}</option>
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
