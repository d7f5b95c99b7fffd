import { useEffect } from "react";
import Button from "react-bootstrap/Button";
import Modal from "react-bootstrap/Modal";
import { useDesign, useStore } from "../design/store";

const SHOWN_MS = 7000;

/** One line of what just happened, with its undo. */
export function Notice() {
  const store = useStore();
  const { notice } = useDesign();
  useEffect(() => {
    if (!notice) return;
    const timer = window.setTimeout(store.dismiss, SHOWN_MS);
    return () => window.clearTimeout(timer);
  }, [notice, store]);
  if (!notice) return null;
  return (
    <div className="notice" role="status">
      <span>{notice.text}</span>
      {notice.undo && (
        <Button
          variant="bare"
          size="sm"
          onClick={() => {
            store.dismiss();
            store.step("undo");
          }}
        >
          undo
        </Button>
      )}
      <Button variant="bare" size="sm" aria-label="dismiss" onClick={store.dismiss}>
        ✕
      </Button>
    </div>
  );
}

/** Two windows changed the same thing: the builder decides. */
export function ClashNotice() {
  const store = useStore();
  const { clash } = useDesign();
  return (
    <Modal show={clash !== null} backdrop="static" keyboard={false} aria-labelledby="clash-title">
      {clash && (
        <Modal.Body>
          <h2 id="clash-title" className="mb-2">
            This was changed in another window too
          </h2>
          <p>
            {clash.change.label || "Your change"}: you wrote <strong>{clash.mine}</strong>, there stands{" "}
            <strong>{clash.theirs}</strong>. Nothing is lost either way: the other value stays in the history.
          </p>
          <div className="d-flex gap-2">
            <Button onClick={() => store.settle(true)}>Keep mine</Button>
            <Button variant="quiet" onClick={() => store.settle(false)}>
              Keep what stands
            </Button>
          </div>
        </Modal.Body>
      )}
    </Modal>
  );
}
