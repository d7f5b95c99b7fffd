import Modal from "react-bootstrap/Modal";
import { STATIONS } from "../design/stations";

const KEYS: [string, string][] = [
  [`1 – ${STATIONS.length}`, "stations, in working order"],
  ["/", "search parts, loads and findings"],
  ["j  k", "next and previous finding"],
  ["a", "apply the remedy in view (undo takes it back)"],
  ["p", "pin the choice in view, or give it back to auto"],
  ["m", "to the margin, and back to the sheet"],
  ["n", "new row, or new circuit"],
  ["Enter  Tab", "in a table: down, right"],
  ["Ctrl D  Ctrl ⌫", "in a table: duplicate, delete the row"],
  ["Ctrl Z  Ctrl ⇧ Z", "undo, redo"],
  ["Esc", "close the working, then clear the selection"],
  ["?", "this list"],
];

export function KeyHelp({ show, onHide }: { show: boolean; onHide: () => void }) {
  return (
    <Modal show={show} onHide={onHide} aria-labelledby="keys-title">
      <Modal.Header closeButton>
        <h2 id="keys-title">Keys</h2>
      </Modal.Header>
      <Modal.Body>
        <div className="key-list">
          {KEYS.map(([keys, what]) => (
            <div key={keys} style={{ display: "contents" }}>
              <span>
                {keys.split("  ").map((key) => (
                  <kbd key={key} className="me-1">
                    {key}
                  </kbd>
                ))}
              </span>
              <span>{what}</span>
            </div>
          ))}
        </div>
        <p className="faint mt-3 mb-0">
          Rest on any figure to see how it was worked out; click to keep the working open and follow it down. The API is
          described at <a href="/api/docs">/api/docs</a>. What Keg Cart is built on, and its licences:{" "}
          <a href="/static/third-party.md">third-party notices</a>.
        </p>
      </Modal.Body>
    </Modal>
  );
}
