import { useQuery } from "@tanstack/react-query";
import Button from "react-bootstrap/Button";
import ButtonGroup from "react-bootstrap/ButtonGroup";
import Dropdown from "react-bootstrap/Dropdown";
import { api, take, type Operation } from "../../api/client";
import { useSelection } from "../../design/selection";
import { useDesign, useStore } from "../../design/store";

/** A part, or a further bank, taken out: alone, what was before and behind it joined, or with all behind it. */
export function TakeOut({ id, name, next }: { id: string; name: string; next: string }) {
  const store = useStore();
  const { design, status } = useDesign();
  const [, select] = useSelection();
  const { data } = useQuery({
    queryKey: ["taken-out", design.id, design.revision, id],
    queryFn: () =>
      take(
        api.GET("/api/designs/{design_id}/taken-out", {
          params: { path: { design_id: design.id }, query: { part: id } },
        }),
      ),
    enabled: status === "saved",
  });
  const { network } = design.document.power;
  const behind = Object.values(network).filter((node) => node.feed === id);
  const go = (patch: Operation[], text: string) => {
    store.change(patch, `Taken out: ${name}`);
    store.say(text, true);
    select(next);
  };
  if (!data) return null;
  const { joined, whole } = data;
  const parts = `${data.behind} part${data.behind === 1 ? "" : "s"}`;
  const withAll = () => go(whole, `Taken out: ${name}${data.behind ? `, with the ${parts} behind it` : ""}.`);
  if (!joined || data.behind === 0) {
    return (
      <Button variant="quiet" size="sm" onClick={withAll}>
        {data.behind ? `Take out, with the ${parts} behind` : "Take out"}
      </Button>
    );
  }
  const joins = behind.map((node) => node.name).join(", ");
  return (
    <Dropdown as={ButtonGroup} align="end">
      <Button
        variant="quiet"
        size="sm"
        onClick={() =>
          go(joined, `Taken out: ${name}; ${joins} ${behind.length === 1 ? "hangs" : "hang"} where it did.`)
        }
      >
        Take out
      </Button>
      <Dropdown.Toggle split variant="quiet" size="sm" aria-label="More ways to take it out" />
      <Dropdown.Menu>
        <Dropdown.Item onClick={withAll}>Take it out with all behind it ({parts})</Dropdown.Item>
      </Dropdown.Menu>
    </Dropdown>
  );
}
