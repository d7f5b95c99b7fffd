import type { Node, PartField, PartKind } from "../../api/client";
import { valueAt, useDesign } from "../../design/store";
import { CheckField, SelectField } from "../../figures/fields";
import { QuantityInput } from "../../figures/QuantityInput";

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
  return (
    <>
      <div className="form-grid mt-2">
        {asked
          .filter((field) => field.control !== "flag")
          .map((field) => (
            <Decision key={field.field} pointer={`${at}/${field.field}`} field={field} />
          ))}
      </div>
      {asked
        .filter((field) => field.control === "flag")
        .map((field) => (
          <Decision key={field.field} pointer={`${at}/${field.field}`} field={field} />
        ))}
    </>
  );
}

function Decision({ pointer, field }: { pointer: string; field: PartField }) {
  const { network, banks } = useDesign().design.document.power;
  const empty = field.empty || undefined;
  switch (field.control) {
    case "quantity":
      return (
        <QuantityInput
          pointer={pointer}
          label={field.label}
          unit={field.unit || undefined}
          optional={empty !== undefined}
          placeholder={empty}
        />
      );
    case "choice":
      return <SelectField pointer={pointer} label={field.label} empty={empty} options={field.options} />;
    case "flag":
      return <CheckField pointer={pointer} label={field.label} on={field.on} off={field.off} />;
    case "feeder":
      return (
        <SelectField
          pointer={pointer}
          label={field.label}
          options={[
            { value: "pack", label: "the pack" },
            ...Object.entries(banks).map(([value, bank]) => ({ value, label: bank.name })),
            ...Object.entries(network).map(([value, other]) => ({ value, label: other.name })),
          ]}
        />
      );
  }
}
