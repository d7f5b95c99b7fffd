import { useQueryClient } from "@tanstack/react-query";
import { api, take } from "../../api/client";
import { useDesign } from "../../design/store";
import { PasteDialog } from "../../figures/PasteDialog";

/** Uses and recharges pasted from a meter's or a builder's table; what was taken in before is not taken in twice. */
export function PasteLog({ onHide, onTaken }: { onHide: () => void; onTaken: (said: string) => void }) {
  const { design } = useDesign();
  const queries = useQueryClient();
  return (
    <PasteDialog
      id="log-title"
      title="Paste a table into the log"
      lead="A line each: a date and the energy; a column “kind” says use, recharge, or any other entry. The log's own CSV comes back the same."
      label="Rows of the log"
      placeholder={"date;kind;energy (kWh);remark\n2026-05-02;use;1.9;market day\n2026-05-03;recharge;2.1;"}
      action="Take these in"
      onHide={onHide}
      take={async (text) => {
        const found = await take(
          api.POST("/api/designs/{design_id}/life/table", {
            params: { path: { design_id: design.id } },
            body: { text, take: true },
          }),
        );
        await queries.invalidateQueries({ queryKey: ["recorded", design.id] });
        const known = found.count - found.new;
        onTaken(
          `${found.new} of ${found.count} lines were entered${known ? `; ${known} stood in the log already` : ""}.`,
        );
      }}
    />
  );
}
