import { useState } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import Modal from "react-bootstrap/Modal";
import { Failure, type Instruments } from "../../../api/client";

type Own = Instruments["own"][number];
type Ask = Own["asks"][number];

const UNITS: Ask["unit"][] = ["V", "mV", "A", "mA", "W", "kW", "°C", "s"];

interface Props {
  one: Own;
  kinds: Instruments["kinds"];
  onHide: () => void;
  onPut: (one: Own) => Promise<void>;
}

/** What an instrument is asked, query by query: which channels its answer gives, in which unit. */
export function InstrumentForm({ one, kinds, onHide, onPut }: Props) {
  const [draft, setDraft] = useState(one);
  const [problem, setProblem] = useState("");
  const ask = (n: number, change: Partial<Ask>) =>
    setDraft({ ...draft, asks: draft.asks.map((a, i) => (i === n ? { ...a, ...change } : a)) });
  const put = async () => {
    try {
      await onPut({ ...draft, asks: draft.asks.filter((a) => a.text.trim()) });
    } catch (failed) {
      setProblem(Failure.of(failed).reason);
    }
  };
  return (
    <Modal show onHide={onHide} size="lg" aria-labelledby="instrument-title">
      <Modal.Header closeButton>
        <Modal.Title id="instrument-title" as="h2">
          What it is asked
        </Modal.Title>
      </Modal.Header>
      <Modal.Body>
        <div className="form-grid mb-2">
          <Form.Group controlId="instrument-name">
            <Form.Label>Name</Form.Label>
            <Form.Control value={draft.name} onChange={(e) => setDraft({ ...draft, name: e.target.value })} />
          </Form.Group>
          <Form.Group controlId="instrument-address">
            <Form.Label>Address</Form.Label>
            <Form.Control value={draft.address} onChange={(e) => setDraft({ ...draft, address: e.target.value })} />
          </Form.Group>
          <Form.Group controlId="instrument-kind">
            <Form.Label>As</Form.Label>
            <Form.Select
              value={draft.kind}
              onChange={(e) => {
                const kind = kinds.find((k) => k.key === e.target.value);
                setDraft({ ...draft, kind: e.target.value, asks: kind?.asks ?? [], acts: kind?.acts ?? {} });
              }}
            >
              <option value="">in its own words</option>
              {kinds.map((k) => (
                <option key={k.key} value={k.key}>
                  {k.label}
                </option>
              ))}
            </Form.Select>
          </Form.Group>
          <Form.Group controlId="instrument-every">
            <Form.Label>Asked every, s</Form.Label>
            <Form.Control
              type="number"
              min={0.05}
              max={60}
              step={0.05}
              value={draft.every_s}
              onChange={(e) => setDraft({ ...draft, every_s: Number(e.target.value) || 0.1 })}
            />
          </Form.Group>
        </div>
        <table className="sheet-table asks-table">
          <thead>
            <tr>
              <th>query</th>
              <th>gives, in this order</th>
              <th>in</th>
              <th>times</th>
              <th aria-label="take away" />
            </tr>
          </thead>
          <tbody>
            {draft.asks.map((a, n) => (
              <tr key={n}>
                <td>
                  <Form.Control
                    size="sm"
                    aria-label={`Query ${n + 1}`}
                    value={a.text}
                    onChange={(e) => ask(n, { text: e.target.value })}
                  />
                </td>
                <td>
                  <Form.Control
                    size="sm"
                    aria-label={`Channels of query ${n + 1}`}
                    value={a.channels.join(" ")}
                    onChange={(e) => ask(n, { channels: e.target.value.split(/[\s,]+/) })}
                  />
                </td>
                <td>
                  <Form.Select
                    size="sm"
                    aria-label={`Unit of query ${n + 1}`}
                    value={a.unit}
                    onChange={(e) => ask(n, { unit: e.target.value as Ask["unit"] })}
                  >
                    {UNITS.map((unit) => (
                      <option key={unit}>{unit}</option>
                    ))}
                  </Form.Select>
                </td>
                <td>
                  <Form.Control
                    size="sm"
                    type="number"
                    step="any"
                    aria-label={`Factor of query ${n + 1}`}
                    value={a.scale}
                    onChange={(e) => ask(n, { scale: Number(e.target.value) || 1 })}
                  />
                </td>
                <td>
                  <Button
                    variant="bare"
                    size="sm"
                    aria-label={`Take query ${n + 1} away`}
                    onClick={() => setDraft({ ...draft, asks: draft.asks.toSpliced(n, 1) })}
                  >
                    ✕
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        <Button
          variant="bare"
          size="sm"
          className="ps-0"
          onClick={() =>
            setDraft({
              ...draft,
              asks: [...draft.asks, { text: "", channels: ["posts.v"], unit: "V", scale: 1, optional: false }],
            })
          }
        >
          + query
        </Button>
        <p className="faint">
          Channels: posts.v, posts.a, end.v, clamp.a, load.v, load.w, supply.v, supply.a, wall.w, air.c, outside.c,
          pack.c; cell.1.v and on, part.1.c and on along the main path, or cell.*.v and part.*.c for all of them, a * in
          the query being how many those are.
        </p>
        {problem && (
          <p className="problem" role="alert">
            {problem}
          </p>
        )}
      </Modal.Body>
      <Modal.Footer>
        <Button onClick={() => void put()}>Put it in</Button>
      </Modal.Footer>
    </Modal>
  );
}
