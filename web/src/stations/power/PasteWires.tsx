import { useState } from "react";
import Button from "react-bootstrap/Button";
import Modal from "react-bootstrap/Modal";
import { api, take, type Operation } from "../../api/client";
import { useDesign, useStore } from "../../app/store";

/** Lengths, gauges and colours pasted from a table, by the name of the part each run leads to. */
export function PasteWires({ onHide }: { onHide: () => void }) {
  const store = useStore();
  const { design } = useDesign();
  const [text, setText] = useState("");
  const [problem, setProblem] = useState("");
  const read = async () => {
    try {
      const patch = await take(
        api.POST("/api/designs/{design_id}/wires/read", {
          params: { path: { design_id: design.id } },
          body: { text },
        }),
      );
      if (patch.length) store.change(patch as Operation[], "Wire table pasted");
      onHide();
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  return (
    <Modal show onHide={onHide} aria-labelledby="wires-title">
      <Modal.Header closeButton>
        <h2 id="wires-title">Paste a wire table</h2>
      </Modal.Header>
      <Modal.Body>
        <p className="faint">The first line names the columns: to, and any of length, gauge (or auto) and colour.</p>
        <textarea
          className="form-control mono"
          rows={8}
          aria-label="Rows of wires"
          placeholder={"to;length m;gauge\nInverter;0,6;35 mm²\nMain switch;0,25;auto"}
          value={text}
          autoFocus
          onChange={(event) => {
            setText(event.target.value);
            setProblem("");
          }}
        />
        {problem && (
          <p className="problem mt-2" role="alert">
            {problem}
          </p>
        )}
      </Modal.Body>
      <Modal.Footer>
        <Button disabled={!text.trim()} onClick={() => void read()}>
          Take these in
        </Button>
      </Modal.Footer>
    </Modal>
  );
}
