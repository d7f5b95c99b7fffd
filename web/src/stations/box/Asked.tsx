import { CheckField, SelectField } from "../../figures/fields";
import { QuantityInput } from "../../figures/QuantityInput";
import type { AskedFor } from "./fields";

/** Decisions of the box in a grid. */
export function Asked({ at, fields }: { at: string; fields: AskedFor[] }) {
  return (
    <div className="form-grid mt-2">
      {fields.map(({ field, label, unit, list, flag, empty }) =>
        flag ? (
          <CheckField key={field} pointer={`${at}/${field}`} label={label} />
        ) : list ? (
          <SelectField key={field} pointer={`${at}/${field}`} label={label} list={list} empty={empty} />
        ) : (
          <QuantityInput
            key={field}
            pointer={`${at}/${field}`}
            label={label}
            unit={unit}
            optional={empty !== undefined}
            placeholder={empty}
          />
        ),
      )}
    </div>
  );
}
