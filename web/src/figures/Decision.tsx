import type { PartField } from "../api/client";
import { useDesign, valueAt } from "../design/store";
import { CheckField, SelectField } from "./fields";
import { HoursInput, type Windows } from "./HoursInput";
import { NumbersInput } from "./NumbersInput";
import { QuantityInput } from "./QuantityInput";

/** One decision about a part or a source, asked for as its kind says. */
function Decision({ pointer, field }: { pointer: string; field: PartField }) {
  const { document } = useDesign().design;
  const { charging, power } = document;
  const { network, banks } = power;
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
    case "numbers":
      return <NumbersInput pointer={pointer} label={field.label} unit={field.unit} placeholder={field.empty} />;
    case "hours":
      return (
        <label className="field">
          <span className="name">{field.label}</span>
          <HoursInput
            pointer={pointer}
            of={field.label}
            windows={valueAt(document, pointer) as Windows | undefined}
            placeholder={field.empty}
            className="form-control form-control-sm"
          />
        </label>
      );
    case "choice":
      return <SelectField pointer={pointer} label={field.label} empty={empty} options={field.options} />;
    case "flag":
      return <CheckField pointer={pointer} label={field.label} on={field.on} off={field.off} />;
    case "source":
      return (
        <SelectField
          pointer={pointer}
          label={field.label}
          empty="no source"
          options={Object.entries(charging.sources).map(([value, source]) => ({ value, label: source.name }))}
        />
      );
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

/** Decisions in a grid, those that are yes or no below it. */
export function Decisions({ at, fields }: { at: string; fields: PartField[] }) {
  return (
    <>
      <div className="form-grid mt-2">
        {fields
          .filter((field) => field.control !== "flag")
          .map((field) => (
            <Decision key={field.field} pointer={`${at}/${field.field}`} field={field} />
          ))}
      </div>
      {fields
        .filter((field) => field.control === "flag")
        .map((field) => (
          <Decision key={field.field} pointer={`${at}/${field.field}`} field={field} />
        ))}
    </>
  );
}
