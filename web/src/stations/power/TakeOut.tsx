import { queryOptions, useQuery, useQueryClient } from "@tanstack/react-query";
import Button from "react-bootstrap/Button";
import ButtonGroup from "react-bootstrap/ButtonGroup";
import Dropdown from "react-bootstrap/Dropdown";
import { api, take } from "../../api/client";
import { useSelection } from "../../design/selection";
import { useDesign, useStore } from "../../design/store";

/** A part, or a further bank, taken out: alone, what was before and behind it joined, or with all behind it. */
export function TakeOut({ id, name, next }: { id: string; name: string; next: string }) {
  const store = useStore();
  const { design, status } = useDesign();
  const [, select] = useSelection();
  const asked = queryOptions({
    queryKey: ["taken-out", design.id, design.revision, id],
    queryFn: () =>
      take(
        api.GET("/api/designs/{design_id}/taken-out", {
          params: { path: { design_id: design.id }, query: { part: id } },
        }),
      ),
    staleTime: Infinity,
  });
  const queries = useQueryClient();
  const { data } = useQuery({ ...asked, enabled: status === "saved" });
  const { network } = design.document.power;
  const behind = Object.values(network).filter((node) => node.feed === id);
  /** What takes it out is asked for again where it was not there yet. */
  const takeOut = (whole: boolean) =>
    void store.prepare(async () => {
      const { joined, whole: all, behind: count } = data ?? (await queries.fetchQuery(asked));
      const alone = !whole && joined !== null;
      const joins = behind.map((node) => node.name).join(", ");
      const said = alone
        ? joins && `; ${joins} ${behind.length === 1 ? "hangs" : "hang"} where it did`
        : count > 0 && `, with the ${partsText(count)} behind it`;
      store.change(alone ? joined : all, `Taken out: ${name}`);
      store.say(`Taken out: ${name}${said || ""}.`, true);
      select(next);
    });
  const withAll = data && !data.joined && data.behind > 0;
  const main = (
    <Button
      variant="quiet"
      size="sm"
      title={withAll ? `with the ${partsText(data.behind)} behind it` : undefined}
      onClick={() => takeOut(false)}
    >
      {withAll ? `Take out, ${data.behind} behind` : "Take out"}
    </Button>
  );
  if (!data?.joined || data.behind === 0) return main;
  return (
    <Dropdown as={ButtonGroup} align="end">
      {main}
      <Dropdown.Toggle split variant="quiet" size="sm" aria-label="More ways to take it out" />
      <Dropdown.Menu>
        <Dropdown.Item onClick={() => takeOut(true)}>
          Take it out with all behind it ({partsText(data.behind)})
        </Dropdown.Item>
      </Dropdown.Menu>
    </Dropdown>
  );
}

const partsText = (count: number) => `${count} part${count === 1 ? "" : "s"}`;
