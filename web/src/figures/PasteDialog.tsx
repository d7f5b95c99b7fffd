import { useState, type ReactNode } from "react";
import Button from "react-bootstrap/Button";
import Modal from "react-bootstrap/Modal";
import { useDraft } from "../design/browser";
import { useStore } from "../design/store";

/** A table pasted and taken in as a whole; what cannot be read stays, with the reason under it. */
export function PasteDialog(props: {
  id: string;
  title: string;
  lead: string;
  label: string;
  placeholder: string;
  action: string;
  /** Reads the text and takes it in. Errors: with the sentence to show. */
  take: (text: string) => Promise<void>;
  onHide: () => void;
  children?: ReactNode;
}) {
  const store = useStore();
  const [kept, setText] = useDraft(props.id);
  const text = kept ?? "";
  const [problem, setProblem] = useState("");
  const read = async () => {
    try {
      await store.prepare(() => props.take(text));
      setText(null);
      props.onHide();
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  return (
    <Modal show onHide={props.onHide} aria-labelledby={props.id}>
      <Modal.Header closeButton>
        <h2 id={props.id}>{props.title}</h2>
      </Modal.Header>
      <Modal.Body>
        <p className="faint">{props.lead}</p>
        <textarea
          className="form-control mono"
          rows={8}
          aria-label={props.label}
          placeholder={props.placeholder}
          value={text}
          autoFocus
          onChange={(event) => {
            setText(event.target.value);
            setProblem("");
          }}
        />
        {props.children}
        {problem && (
          <p className="problem mt-2" role="alert">
            {problem}
          </p>
        )}
      </Modal.Body>
      <Modal.Footer>
        <Button disabled={!text.trim()} onClick={() => void read()}>
          {props.action}
        </Button>
      </Modal.Footer>
    </Modal>
  );
}
