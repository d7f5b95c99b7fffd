import Dropdown from "react-bootstrap/Dropdown";
import type { Operation, PartKind } from "../../api/client";
import { useSelection } from "../../design/selection";
import { useDesign, useStore } from "../../design/store";
import { freshId } from "../../design/ids";

interface Props {
  /** A part, a further bank, or the pack. */
  id: string;
  name: string;
  /** The kinds of part there are, as the core names them. */
  kinds: PartKind[];
}

/** Parts added where the builder points: behind the chosen part, or into the line before it, with sound defaults. */
export function AddBehind({ id, name, kinds }: Props) {
  const store = useStore();
  const { design } = useDesign();
  const [, select] = useSelection();
  const { network, banks } = design.document.power;
  const partAt = (key: string) => (key in network ? network[key]!.part : "pack");
  /** Whether what hangs on a part stands behind a converter. */
  const isRegulated = (from: string) => {
    for (let here = from; here in network; here = network[here]!.feed)
      if (network[here]!.part === "converter") return true;
    return false;
  };
  const has = (kind: PartKind) => kind.key !== "selector" || Object.keys(banks).length > 0;
  const mayFollow = (kind: PartKind, feed: string) =>
    kind.fed_by.includes(partAt(feed)) && (!isRegulated(feed) || kind.regulated) && has(kind);
  const node = network[id];
  const own = kinds.find((kind) => kind.key === node?.part);
  const behind = kinds.filter((kind) => mayFollow(kind, id));
  const before = kinds.filter(
    (kind) =>
      node &&
      (kind.role === "protects" || kind.role === "passes") &&
      mayFollow(kind, node.feed) &&
      own?.fed_by.includes(kind.key),
  );
  /** A name that no other part has: further ones of a kind are counted. */
  const called = (kind: PartKind) => {
    const names = new Set(Object.values(store.get().ahead.power.network).map((other) => other.name));
    let called = kind.first_name;
    for (let n = 2; names.has(called); n++) called = `${kind.first_name} ${n}`;
    return called;
  };
  const begin = (kind: PartKind, feed: string): Record<string, unknown> => ({
    part: kind.key,
    name: called(kind),
    feed,
    run: { length_m: ["inverter", "ac_breaker"].includes(partAt(feed)) ? 0 : 0.3 },
    ...(kind.key === "selector" ? { other: Object.keys(banks)[0] } : {}),
  });
  const unused = (kind: PartKind) => {
    const { network, banks } = store.get().ahead.power;
    return freshId(kind.first_name, { ...network, ...banks });
  };
  const add = (kind: PartKind) => {
    const key = unused(kind);
    store.change(
      [{ op: "add", path: `/power/network/${key}`, value: begin(kind, id) }],
      `${kind.first_name} behind ${name}`,
    );
    select(`/power/network/${key}`);
  };
  const insert = (kind: PartKind) => {
    if (!node) return;
    const key = unused(kind);
    const patch: Operation[] = [
      { op: "add", path: `/power/network/${key}`, value: begin(kind, node.feed) },
      { op: "replace", path: `/power/network/${id}/feed`, value: key },
    ];
    store.change(patch, `${kind.first_name} before ${name}`);
    select(`/power/network/${key}`);
  };
  return (
    <div className="d-flex gap-2 mt-2">
      {behind.length > 0 && (
        <Dropdown>
          <Dropdown.Toggle variant="quiet" size="sm">
            Add behind it…
          </Dropdown.Toggle>
          <Dropdown.Menu>
            {behind.map((kind) => (
              <Dropdown.Item key={kind.key} onClick={() => add(kind)}>
                {kind.add}
              </Dropdown.Item>
            ))}
          </Dropdown.Menu>
        </Dropdown>
      )}
      {before.length > 0 && (
        <Dropdown>
          <Dropdown.Toggle variant="quiet" size="sm">
            Put before it…
          </Dropdown.Toggle>
          <Dropdown.Menu>
            {before.map((kind) => (
              <Dropdown.Item key={kind.key} onClick={() => insert(kind)}>
                {kind.add}
              </Dropdown.Item>
            ))}
          </Dropdown.Menu>
        </Dropdown>
      )}
    </div>
  );
}

/** An outlet with all it needs before it, behind a source: the pack, or a further bank. */
export function AddOutlet({ source }: { source: string }) {
  return (
    <Dropdown className="mt-2">
      <Dropdown.Toggle variant="quiet" size="sm">
        Lay out to an outlet…
      </Dropdown.Toggle>
      <Dropdown.Menu>
        <OutletItems source={source} />
      </Dropdown.Menu>
    </Dropdown>
  );
}

/** What can be laid out behind a source, as the items of a menu. */
export function OutletItems({ source }: { source: string }) {
  const store = useStore();
  const { design } = useDesign();
  const [, select] = useSelection();
  const offers = design.assessment.offers.filter((offer) => offer.source === source);
  return offers.map((offer) => (
    <Dropdown.Item
      key={offer.label}
      onClick={() => {
        store.change(offer.patch, offer.label);
        const last = offer.patch.at(-1);
        if (last) select(last.path);
      }}
    >
      {offer.label}
    </Dropdown.Item>
  ));
}
