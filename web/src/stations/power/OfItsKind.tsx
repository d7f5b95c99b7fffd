import type { Node, PartKind } from "../../api/client";
import { valueAt, useDesign } from "../../design/store";
import { Decisions } from "../../figures/Decision";

/** What is decided of a part besides its size: the fields that its kind names. */
export function OfItsKind({ at, node, kind, hasRun }: { at: string; node: Node; kind: PartKind; hasRun: boolean }) {
  const { figures } = useDesign().design.assessment;
  const chosen = (figure: string) => String(figures[`${at.replace("/power/network", "power")}/${figure}`]?.key);
  const asked = kind.fields.filter(
    (field) =>
      (hasRun || !field.field.startsWith("run/")) &&
      (!field.needs || Boolean(valueAt(node, `/${field.needs}`))) &&
      (!field.of_choice || field.of_keys.includes(chosen(field.of_choice))),
  );
  return <Decisions at={at} fields={asked} />;
}
