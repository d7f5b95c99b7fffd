import { api, take } from "../../api/client";
import { useDesign, useStore } from "../../design/store";
import { PasteDialog } from "../../figures/PasteDialog";

/** What is there and what things cost, pasted from the shopping list as it was filled in elsewhere. */
export function PasteShopping({ onHide }: { onHide: () => void }) {
  const store = useStore();
  const { design } = useDesign();
  return (
    <PasteDialog
      id="shopping-title"
      title="Paste prices and what is there"
      lead="The list as its CSV has it: the column of keys, and any of there already and price of one."
      label="Rows of the shopping list"
      placeholder={"key;there already;price of one\ncells;8;95\nwire:25-mm2:red;1.5;4.20"}
      action="Take these in"
      onHide={onHide}
      take={async (text) => {
        const patch = await take(
          api.POST("/api/designs/{design_id}/shopping/read", {
            params: { path: { design_id: design.id } },
            body: { text },
          }),
        );
        if (patch.length) store.change(patch, "Shopping list pasted");
      }}
    />
  );
}
