import { useState } from "react";
import Button from "react-bootstrap/Button";
import Modal from "react-bootstrap/Modal";
import { api, take } from "../../api/client";
import { useDesign, useStore } from "../../app/store";

/** The builder's own discharge, pasted as a table. */
export function CurveDialog({ onHide }: { onHide: () => void }) {
  const store = useStore();
  const { design } = useDesign();
  const [text, setText] = useState("");
  const [amps, setAmps] = useState("0");
  const [cells, setCells] = useState("1");
  const [problem, setProblem] = useState("");
  const read = async () => {
    try {
      const curve = await take(
        api.POST("/api/pack/read-curve", {
          body: { text, current_a: Number(amps.replace(",", ".")) || 0, cells: Math.max(1, Math.round(Number(cells))) },
        }),
      );
      store.put("/pack/curve", curve, "Own discharge curve");
      onHide();
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  return (
    <Modal show onHide={onHide} aria-labelledby="curve-title">
      <Modal.Header closeButton>
        <h2 id="curve-title">Own discharge curve</h2>
      </Modal.Header>
      <Modal.Body>
        <p className="faint">
          A table with a line of headers: voltage, and Ah taken or state of charge. It stands in place of the typical{" "}
          {design.document.pack.chemistry.toUpperCase()} curve, in the figures and in the simulation.
        </p>
        <textarea
          className="form-control mono"
          rows={8}
          aria-label="Table of the discharge"
          placeholder={"Ah;V\n0;3.38\n10;3.32\n…"}
          value={text}
          autoFocus
          onChange={(event) => {
            setText(event.target.value);
            setProblem("");
          }}
        />
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
        {problem && (
          <p className="problem mt-2" role="alert">
            {problem}
          </p>
        )}
      </Modal.Body>
      <Modal.Footer>
        <Button disabled={!text.trim()} onClick={() => void read()}>
          Take this curve
        </Button>
      </Modal.Footer>
    </Modal>
  );
}
