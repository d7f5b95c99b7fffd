import { useMemo, useRef, useState, type ReactNode } from "react";
import Button from "react-bootstrap/Button";
import Form from "react-bootstrap/Form";
import type { BoxDrawn, Severity } from "../../api/client";
import { lazily } from "../../design/lazily";
import type { Case, Hollow } from "../../drawings/model/space";
import type { From, Hand } from "../../drawings/model/Turning";

const BoxModel = lazily(() => import("../../drawings/model/BoxModel"), <p className="faint model-waits">Opening…</p>);
/** The first look: into the box, past a door, which hangs on the left. */
const CORNER: From = [-32, 34];
const DOOR_CORNER: From = [32, 34];
const FROM: Record<string, From> = {
  front: [0, 0],
  right: [90, 0],
  back: [180, 0],
  left: [-90, 0],
  above: [0, 90],
};
const ZOOM = 1.25;

let asked: boolean | undefined;

/** Whether this browser draws in three dimensions at all; asked once, as it keeps what it was asked with. */
function draws(): boolean {
  try {
    asked ??= !!document.createElement("canvas").getContext("webgl2");
  } catch {
    asked = false;
  }
  return asked;
}

/** A place with all that is reached from it, step by step. */
function reached(place: string, next: (place: string) => string[]): Set<string> {
  const found = new Set([place]);
  for (const at of found) next(at).forEach((one) => found.add(one));
  return found;
}

/** The order in which things come out, and what of them is out. */
function useOut(data: BoxDrawn) {
  const [out, setOut] = useState<ReadonlySet<string>>(new Set());
  const over = useMemo(() => new Map(data.handles.map((h) => [h.place, h.over ?? []])), [data.handles]);
  const order = data.order_out;
  const is = order.filter((place) => out.has(place));
  const under = (place: string) => [...over].filter(([, above]) => above.includes(place)).map(([lower]) => lower);
  /** With a thing goes all that stands over it; and in before it goes all that stands under it. */
  const withOver = (place: string) => reached(place, (at) => over.get(at) ?? []);
  const withUnder = (place: string) => reached(place, under);
  return {
    order,
    out: new Set(is),
    next: order.find((place) => !out.has(place)),
    first: (count: number) => setOut(new Set(order.slice(0, count))),
    takeOut: (place: string) => setOut(new Set([...is, ...withOver(place)])),
    putBack: (place: string) => setOut(new Set(is.filter((other) => !withUnder(place).has(other)))),
    before: (place: string) => order.filter((at) => at !== place && !out.has(at) && withOver(place).has(at)),
  };
}

interface Props {
  data: BoxDrawn & { hollow: Hollow };
  box: Case;
  selected: string;
  onSelect: (place: string) => void;
  worst: (place: string) => Severity | undefined;
  /** What serves where three dimensions cannot be drawn. */
  flat: ReactNode;
}

export function Model({ data, box, selected, onSelect, worst, flat }: Props) {
  const [can, setCan] = useState(draws);
  const [open, setOpen] = useState(true);
  const [runs, setRuns] = useState(true);
  const hand = useRef<Hand>(null);
  const { order, out, next, first, takeOut, putBack, before } = useOut(data);
  const door = box.opens === "front";
  const corner = door ? DOOR_CORNER : CORNER;
  const named = (place: string) => data.handles.find((h) => h.place === place)?.name ?? "";
  if (!can) {
    return (
      <>
        <p className="faint" role="status">
          This browser draws nothing in three dimensions. The flat drawings show the same, to scale.
        </p>
        {flat}
      </>
    );
  }
  const picked = order.includes(selected) ? selected : undefined;
  const opening = (then: () => void) => () => {
    setOpen(true);
    then();
  };
  return (
    <>
      <div className="model-tools">
        <div className="tabs mb-0" role="group" aria-label="Seen from">
          {Object.entries({ "a corner": corner, ...FROM }).map(([name, side]) => (
            <button key={name} type="button" className="tab tight" onClick={() => hand.current?.from(side)}>
              {name}
            </button>
          ))}
          <button type="button" className="tab tight" aria-label="nearer" onClick={() => hand.current?.zoom(ZOOM)}>
            +
          </button>
          <button type="button" className="tab tight" aria-label="farther" onClick={() => hand.current?.zoom(1 / ZOOM)}>
            −
          </button>
        </div>
        <Form.Check
          id="model-runs"
          className="ms-auto"
          checked={runs}
          onChange={() => setRuns(!runs)}
          label="runs, as their length is counted"
        />
        <Button variant="quiet" size="sm" onClick={() => setOpen(!open)}>
          {open ? "Shut" : "Open"} the {door ? "door" : "lid"}
        </Button>
      </div>
      <BoxModel
        {...{ data, box, open, out, runs, selected, onSelect, worst, hand }}
        first={corner}
        onLost={() => setCan(false)}
      />
      <div className="model-tools">
        <Form.Label htmlFor="model-out" className="mb-0">
          Taken out: {out.size} of {order.length}
        </Form.Label>
        <Form.Range
          id="model-out"
          className="model-out"
          min={0}
          max={order.length}
          value={out.size}
          onChange={(event) => opening(() => first(Number(event.target.value)))()}
          aria-valuetext={`${out.size} of ${order.length} taken out`}
        />
        {next && (
          <Button variant="quiet" size="sm" onClick={opening(() => takeOut(next))}>
            Next out: {named(next)}
          </Button>
        )}
        {out.size > 0 && (
          <Button variant="bare" size="sm" onClick={() => first(0)}>
            all back in
          </Button>
        )}
        {picked && (
          <Button
            variant="quiet"
            size="sm"
            className="ms-auto"
            onClick={out.has(picked) ? () => putBack(picked) : opening(() => takeOut(picked))}
          >
            {out.has(picked) ? "Put back" : "Take out"} {named(picked)}
          </Button>
        )}
      </div>
      {picked && !out.has(picked) && (
        <p className="faint mb-2">
          {before(picked).length
            ? `Before ${named(picked)} comes out: ${before(picked).map(named).join(", ")}.`
            : `Nothing stands ${door ? "before" : "over"} ${named(picked)}.`}
        </p>
      )}
    </>
  );
}
