import Dropdown from "react-bootstrap/Dropdown";
import { useDesign, useStore } from "../design/store";

/** What was typed and not taken, wherever it was: each with its reason, to be tried again or dropped. */
export function Refused() {
  const store = useStore();
  const { refused } = useDesign();
  if (!refused.length) return null;
  return (
    <Dropdown>
      <Dropdown.Toggle variant="bare" size="sm" className="refused">
        {refused.length} not taken
      </Dropdown.Toggle>
      <Dropdown.Menu className="refused-list">
        {refused.map((change, i) => (
          <div key={change.act ?? i}>
            <strong>{change.label || "A change"}</strong>
            <span className="problem">{change.problem}</span>
            <Dropdown.Item as="button" onClick={() => store.again(change)}>
              try again
            </Dropdown.Item>
            <Dropdown.Item as="button" onClick={() => store.drop(change)}>
              drop it
            </Dropdown.Item>
          </div>
        ))}
      </Dropdown.Menu>
    </Dropdown>
  );
}
