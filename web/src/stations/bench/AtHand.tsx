import { useState } from "react";
import { freshId } from "../../design/ids";
import { useDesign, useStore } from "../../design/store";
import { SelectField } from "../../figures/fields";
import { QuantityInput } from "../../figures/QuantityInput";

/** What the builder has to load the test with, besides the loads of the build. */
export function AtHand() {
  const { design } = useDesign();
  const store = useStore();
  const [name, setName] = useState("");
  const loads = design.document.bench.test_loads ?? {};
  const add = () => {
    const called = name.trim();
    if (!called) return;
    const key = freshId(called, store.get().ahead.bench.test_loads ?? {});
    const value = {
      name: called,
      watts: 1000,
      ac: Object.keys(design.assessment.figures).some((p) => p.endsWith("/surge_rating")),
    };
    store.change([{ op: "add", path: `/bench/test_loads/${key}`, value }], `At hand: ${called}`);
    setName("");
  };
  return (
    <>
      <h2 className="form-group-title">At hand to load it with</h2>
      <p className="faint mb-1">
        A kettle, a heater, a lamp: what each step is to take is made up of them and of the loads of the build.
      </p>
      {Object.keys(loads).length > 0 && (
        <div className="table-scroll">
          <table className="sheet-table at-hand">
            <tbody>
              {Object.entries(loads).map(([key, load]) => (
                <tr key={key}>
                  <td>{load.name}</td>
                  <td>
                    <QuantityInput
                      pointer={`/bench/test_loads/${key}/watts`}
                      label={`${load.name}: watts`}
                      unit="W"
                      cell
                      inside
                    />
                  </td>
                  <td>
                    <QuantityInput
                      pointer={`/bench/test_loads/${key}/count`}
                      label={`${load.name}: how many`}
                      unit="×"
                      cell
                      inside
                    />
                  </td>
                  <td>
                    <SelectField
                      pointer={`/bench/test_loads/${key}/ac`}
                      label={`${load.name}: supply`}
                      list="TestLoad.ac"
                      cell
                    />
                  </td>
                  <td>
                    <button
                      type="button"
                      className="btn btn-bare btn-sm"
                      aria-label={`Take away: ${load.name}`}
                      onClick={() =>
                        store.change(
                          [{ op: "remove", path: `/bench/test_loads/${key}` }],
                          `No longer at hand: ${load.name}`,
                        )
                      }
                    >
                      take away
                    </button>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      <form
        className="by-hand at-hand-new"
        aria-label="Something at hand"
        onSubmit={(event) => {
          event.preventDefault();
          add();
        }}
      >
        <input
          className="form-control form-control-sm"
          aria-label="What is at hand"
          placeholder="kettle, heater, lamp…"
          maxLength={80}
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
        <button type="submit" className="btn btn-quiet btn-sm" disabled={!name.trim()}>
          Add it
        </button>
      </form>
    </>
  );
}
