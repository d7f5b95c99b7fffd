import { Link } from "react-router";
import { useDesign } from "../../design/store";
import { FigureRow } from "../../figures/FigureRow";
import { useReference } from "../../figures/reference";
import { AddBehind, AddOutlet } from "./AddParts";

/** The posts of the pack, where the path begins. */
export function PostsDetails() {
  const { design } = useDesign();
  const reference = useReference();
  return (
    <>
      <div className="crumb">Power path · source</div>
      <h2>Posts of the pack</h2>
      <dl className="figure-list">
        <FigureRow label="Running" path="power/current" />
        <FigureRow label="Worst surge" path="power/surge" />
        <FigureRow label="Fault at its posts" path="pack/fault" />
      </dl>
      <AddOutlet source="pack" />
      <AddBehind id="pack" name="the pack" kinds={reference?.parts ?? []} />
      <Link className="btn btn-bare btn-sm ps-0 mt-2" to={`/build/${design.id}/pack`}>
        to the pack itself
      </Link>
    </>
  );
}
