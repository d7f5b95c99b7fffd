import { api, take } from "../../api/client";
import { useDesign, useStore } from "../../design/store";
import { PasteDialog } from "../../figures/PasteDialog";
import { useShown } from "../../figures/units";

/** Lengths, gauges and colours pasted from a table, by the name of the part each run leads to. */
export function PasteWires({ onHide }: { onHide: () => void }) {
  const store = useStore();
  const { design } = useDesign();
  const length = useShown("m");
  const example = (metres: number) => Number(length.to(metres).toPrecision(2));
  return (
    <PasteDialog
      id="wires-title"
      title="Paste a wire table"
      lead="The first line names the columns: to, and any of length, gauge (or auto) and colour."
      label="Rows of wires"
      placeholder={`to;length ${length.unit};gauge\nInverter;${example(0.6)};35 mm²\nMain switch;${example(0.25)};auto`}
      action="Take these in"
      onHide={onHide}
      take={async (text) => {
        const patch = await take(
          api.POST("/api/designs/{design_id}/wires/read", {
            params: { path: { design_id: design.id } },
            body: { text },
          }),
        );
        if (patch.length) store.change(patch, "Wire table pasted");
      }}
    />
  );
}
