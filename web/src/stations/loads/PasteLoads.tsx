import { useEffect, useState } from "react";
import Button from "react-bootstrap/Button";
import Modal from "react-bootstrap/Modal";
import { api, take, type Load, type LoadTable } from "../../api/client";
import { useDraft } from "../../design/browser";
import { ProblemList } from "../../figures/ProblemList";

/** Where a table that was pasted waits to be taken in. */
export const PASTED_LOADS = "paste-loads";

/** Loads pasted from a spreadsheet: shown as they read, then added all at once. */
export function PasteLoads(props: { onHide: () => void; onAdd: (loads: Load[]) => void }) {
  const [kept, setText] = useDraft(PASTED_LOADS);
  const text = kept ?? "";
  const [read, setRead] = useState<{ of: string; table: LoadTable | null; error: string }>({
    of: "",
    table: null,
    error: "",
  });
  useEffect(() => {
    if (!text.trim()) return;
    let current = true;
    const timer = window.setTimeout(() => {
      take(api.POST("/api/loads/read", { body: { text } })).then(
        (table) => current && setRead({ of: text, table, error: "" }),
        (error: Error) => current && setRead({ of: text, table: null, error: error.message }),
      );
    }, 200);
    return () => {
      current = false;
      window.clearTimeout(timer);
    };
  }, [text]);
  const { table, error } = read.of === text && text.trim() ? read : { table: null, error: "" };
  const loads = table?.loads ?? [];
  return (
    <Modal show onHide={props.onHide} size="lg" aria-labelledby="paste-title">
      <Modal.Header closeButton>
        <h2 id="paste-title">Paste a table of loads</h2>
      </Modal.Header>
      <Modal.Body>
        <p className="faint">
          The first line names the columns: name and watts at least; also count, supply, kind, surge, hours (9-12,
          14-16). Commas, semicolons or tabs; decimal comma or point.
        </p>
        <textarea
          className="form-control mono"
          rows={8}
          aria-label="Table of loads"
          value={text}
          autoFocus
          placeholder={"name; watts; count; hours\nLamp; 12; 4; 18-22\nCooler; 45; 1; 0-24"}
          onChange={(event) => setText(event.target.value)}
        />
        {error && (
          <p className="problem" role="alert">
            {error}
          </p>
        )}
        {table && <ProblemList problems={table.problems} />}
        {loads.length > 0 && (
          <p className="mt-2 mb-0">
            {loads.length} {loads.length === 1 ? "load reads" : "loads read"} well:{" "}
            {loads
              .slice(0, 5)
              .map((load) => `${load.name} ${load.watts} W`)
              .join(", ")}
            {loads.length > 5 && "…"}
          </p>
        )}
      </Modal.Body>
      <Modal.Footer>
        <Button
          disabled={!loads.length}
          onClick={() => {
            props.onAdd(loads);
            setText(null);
            props.onHide();
          }}
        >
          {loads.length ? `Add ${loads.length}` : "Add"}
        </Button>
      </Modal.Footer>
    </Modal>
  );
}
