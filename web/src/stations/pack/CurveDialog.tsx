import { useState } from "react";
import { api, take } from "../../api/client";
import { useDesign, useStore } from "../../design/store";
import { PasteDialog } from "../../figures/PasteDialog";

/** The builder's own discharge, pasted as a table. */
export function CurveDialog({ onHide }: { onHide: () => void }) {
  const store = useStore();
  const { design } = useDesign();
  const [amps, setAmps] = useState("0");
  const [cells, setCells] = useState("1");
  const chemistry = design.document.pack.chemistry.toUpperCase();
  return (
    <PasteDialog
      id="curve-title"
      title="Own discharge curve"
      lead={
        "A table with a line of headers: voltage, and Ah taken or state of charge. It stands in place of the typical " +
        `${chemistry} curve, in the figures and in the simulation.`
      }
      label="Table of the discharge"
      placeholder={"Ah;V\n0;3.38\n10;3.32\n…"}
      action="Take this curve"
      onHide={onHide}
      take={async (text) => {
        const current = Number(amps.replace(",", "."));
        const together = Number(cells);
        if (!(current >= 0)) throw new Error(`The current is a number of amps, 0 if rested, not "${amps}".`);
        if (!(Number.isInteger(together) && together > 0))
          throw new Error(`The cells measured together are a whole number from 1, not "${cells}".`);
        const curve = await take(
          api.POST("/api/pack/read-curve", { body: { text, current_a: current, cells: together } }),
        );
        store.put("/pack/curve", curve, "Own discharge curve");
      }}
    >
      <div className="form-grid mt-2">
        <label className="field" htmlFor="curve-amps">
          <span className="name">Current of one cell, 0 if rested</span>
          <span className="with-unit">
            <input
              id="curve-amps"
              className="form-control form-control-sm"
              value={amps}
              onChange={(event) => setAmps(event.target.value)}
            />
            <span className="unit">A</span>
          </span>
        </label>
        <label className="field" htmlFor="curve-cells">
          <span className="name">Cells in series measured together</span>
          <input
            id="curve-cells"
            className="form-control form-control-sm"
            value={cells}
            onChange={(event) => setCells(event.target.value)}
          />
        </label>
      </div>
    </PasteDialog>
  );
}
