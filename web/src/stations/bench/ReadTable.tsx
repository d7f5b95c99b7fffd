import type { TestStep } from "../../api/client";
import { Fig } from "../../figures/Figure";
import { STEPS } from "./steps";

const ROWS: Record<string, string> = {
  lasted: "lasted",
  posts: "posts",
  shunt: "shunt",
  clamp: "clamp",
  end: "end of the path",
  load: "load",
  cell: "lowest cell",
  joint: "joint furthest off",
  air: "air inside",
};
/** What was read at the end of each step; out of band in red, with what was expected below it. */
export function ReadTable({ steps, title = "What the test read" }: { steps: TestStep[]; title?: string }) {
  const names = Object.keys(ROWS).filter((name) => steps.some((s) => s.readings.some((r) => r.name === name)));
  return (
    <>
      <h2 className="mb-1">{title}</h2>
      <div className="table-scroll">
        <table className="sheet-table drill-table">
          <thead>
            <tr>
              <th />
              {steps.map((s) => (
                <th key={s.key} className="num">
                  {STEPS[s.key] ?? s.key}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {names.map((name) => (
              <tr key={name} data-row={name}>
                <th scope="row">{ROWS[name]}</th>
                {steps.map((s) => {
                  const reading = s.readings.find((r) => r.name === name);
                  return (
                    <td key={s.key} className={`num ${reading?.off ? "off" : ""}`}>
                      {reading && <Fig figure={reading.read} />}
                      {reading?.off && (
                        <div>
                          <span className="visually-hidden">out of band: </span>
                          <Fig figure={reading.expected} />
                          <div>
                            ± <Fig figure={reading.band} />
                          </div>
                          {reading.where && <div>{reading.where}</div>}
                        </div>
                      )}
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <p className="faint">Out of band stands in red, with what was expected of the design below it.</p>
    </>
  );
}
