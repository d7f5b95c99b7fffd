import Dropdown from "react-bootstrap/Dropdown";
import type { Node, Operation } from "../../api/client";
import { useSelection } from "../../app/selection";
import { useDesign, useStore } from "../../app/store";
import { freshId } from "../loads/HoursInput";

type Kind = Node["part"];

/** What may hang on what; the core holds the same, and refuses the rest. */
const LINE: Kind[] = [
  "protection",
  "switch",
  "selector",
  "plug",
  "fuse_block",
  "inverter",
  "converter",
  "outlet",
  "input",
];
const BEHIND: Record<Kind | "source", Kind[]> = {
  source: ["protection", "switch", "plug", "busbar"],
  protection: [...LINE, "busbar"],
  switch: [...LINE, "busbar"],
  selector: [...LINE, "busbar"],
  plug: [...LINE, "busbar"],
  busbar: LINE,
  fuse_block: ["protection", "switch", "outlet", "inverter", "converter"],
  inverter: ["outlet"],
  converter: ["protection", "switch", "fuse_block", "outlet"],
  outlet: [],
  input: [],
};
const NAMES: Record<Kind, string> = {
  protection: "a fuse",
  switch: "a switch",
  selector: "a source selector",
  plug: "a quick connect",
  busbar: "a busbar",
  fuse_block: "a fuse block",
  inverter: "an inverter",
  converter: "a converter to 12 V",
  outlet: "an outlet",
  input: "a charging input",
};
const FIRST_NAMES: Record<Kind, string> = {
  protection: "Fuse",
  switch: "Switch",
  selector: "Source selector",
  plug: "Quick connect",
  busbar: "Busbar",
  fuse_block: "Fuse block",
  inverter: "Inverter",
  converter: "Converter to 12 V",
  outlet: "Outlet",
  input: "Charging input",
};
/** What is put into a line just before a part. */
const IN_LINE: Kind[] = ["protection", "switch", "plug"];

/** Parts added where the builder points: behind the chosen part, or into the line before it, with sound defaults. */
export function AddBehind({ id, node }: { id: string; node: Node }) {
  const store = useStore();
  const { design } = useDesign();
  const [, select] = useSelection();
  const { network, banks } = design.document.power;
  const regulated = (() => {
    for (let here: string | undefined = id; here && here in network; here = network[here]!.feed)
      if (network[here]!.part === "converter") return true;
    return false;
  })();
  const allowed = BEHIND[node.part].filter(
    (kind) => (!regulated || BEHIND.converter.includes(kind)) && (kind !== "selector" || Object.keys(banks).length > 0),
  );
  const begin = (kind: Kind, feed: string): Record<string, unknown> => ({
    part: kind,
    name: FIRST_NAMES[kind],
    feed,
    run: { length_m: kind === "outlet" && node.part === "inverter" ? 0 : 0.3 },
    ...(kind === "selector" ? { other: Object.keys(banks)[0] } : {}),
  });
  const add = (kind: Kind) => {
    const key = freshId(FIRST_NAMES[kind], { ...network, ...banks });
    store.change(
      [{ op: "add", path: `/power/network/${key}`, value: begin(kind, id) }],
      `${FIRST_NAMES[kind]} behind ${node.name}`,
    );
    select(`/power/network/${key}`);
  };
  const insert = (kind: Kind) => {
    const key = freshId(FIRST_NAMES[kind], { ...network, ...banks });
    const patch: Operation[] = [
      { op: "add", path: `/power/network/${key}`, value: begin(kind, node.feed) },
      { op: "replace", path: `/power/network/${id}/feed`, value: key },
    ];
    store.change(patch, `${FIRST_NAMES[kind]} before ${node.name}`);
    select(`/power/network/${key}`);
  };
  const feeder = network[node.feed]?.part;
  const before = feeder === "inverter" ? [] : IN_LINE.filter((kind) => !regulated || kind !== "plug");
  return (
    <div className="d-flex gap-2 mt-2">
      {allowed.length > 0 && (
        <Dropdown>
          <Dropdown.Toggle variant="quiet" size="sm">
            Add behind it…
          </Dropdown.Toggle>
          <Dropdown.Menu>
            {allowed.map((kind) => (
              <Dropdown.Item key={kind} onClick={() => add(kind)}>
                {NAMES[kind]}
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
              <Dropdown.Item key={kind} onClick={() => insert(kind)}>
                {NAMES[kind]}
              </Dropdown.Item>
            ))}
          </Dropdown.Menu>
        </Dropdown>
      )}
    </div>
  );
}
