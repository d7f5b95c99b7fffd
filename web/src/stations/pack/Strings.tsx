import type { Bank } from "../../api/client";
import { useDesign, useStore } from "../../design/store";
import { SelectField } from "../../figures/fields";
import { Fig } from "../../figures/Figure";
import { QuantityInput } from "../../figures/QuantityInput";

/** Strings in parallel: how they are joined, and what was measured of each. */
export function Strings({ bank }: { bank: Bank }) {
  const { design } = useDesign();
  const text = (path: string) => design.assessment.figures[path]?.text;
  const count = Number(design.assessment.figures["pack/parallel"]?.value ?? 1);
  const keys = Array.from({ length: count }, (_, i) => `s${i + 1}`);
  return (
    <>
      <h2 className="form-group-title">Together</h2>
      <div className="form-grid">
        <QuantityInput pointer="/pack/in_series" label="In series" />
        <QuantityInput
          pointer="/pack/parallel"
          label="Strings in parallel"
          optional
          placeholder={`auto: ${text("pack/parallel")}`}
        />
        <SelectField
          pointer="/pack/takeoff"
          label="The load is taken off"
          empty="auto: at opposite corners"
          list="Bank.takeoff"
        />
        <QuantityInput pointer="/pack/lead_m" label="Lead of each string" unit="m" />
        <QuantityInput pointer="/pack/link_m" label="Link, string to string" unit="m" />
      </div>
      <table className="sheet-table mt-2">
        <thead>
          <tr>
            <th>string</th>
            <th className="num">share</th>
            <th>own fuse</th>
            {bank.battery?.sleeps && <th>wake-up line</th>}
            <th className="num">lead, m</th>
            <th className="num">unit</th>
            <th className="num">resting, V</th>
            <th className="num">measured, Ah</th>
            <th className="num">made in</th>
          </tr>
        </thead>
        <tbody>
          {keys.flatMap((key, n) =>
            Array.from({ length: bank.in_series ?? 1 }, (_, u) => (
              <StringRow key={`${key}u${u}`} bank={bank} name={key} number={n + 1} unit={u + 1} />
            )),
          )}
        </tbody>
      </table>
    </>
  );
}

function StringRow({ bank, name, number, unit }: { bank: Bank; name: string; number: number; unit: number }) {
  const store = useStore();
  const { problems } = useDesign();
  const string = bank.strings?.[name];
  const at = `/pack/strings/${name}`;
  const measured = string?.units?.[`u${unit}`];
  /** Puts one field of the string, or of its unit, writing what is not there yet. */
  const put = (changes: Record<string, unknown>, ofUnit?: Record<string, unknown>) => {
    const units = ofUnit ? { ...string?.units, [`u${unit}`]: { ...measured, ...ofUnit } } : (string?.units ?? {});
    store.put(at, { ...string, ...changes, units }, `String ${number} changed`);
  };
  const cell = (label: string, value: number | null | undefined, set: (typed: string | null) => void, hint = "") => (
    <input
      className={`cell-input${problems[at] ? " bad" : ""}`}
      aria-label={`${label}, string ${number}, unit ${unit}`}
      key={String(value)}
      defaultValue={value ?? ""}
      placeholder={hint}
      onBlur={(event) => event.target.value !== String(value ?? "") && set(event.target.value.trim() || null)}
      onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
    />
  );
  const first = unit === 1;
  return (
    <tr>
      <td>{first && number}</td>
      <td className="num">{first && <Fig path={`pack/share/${number}`} />}</td>
      <td>
        {first && (
          <input
            type="checkbox"
            className="form-check-input"
            aria-label={`String ${number} has its own fuse`}
            checked={string?.protected ?? true}
            onChange={(event) => put({ protected: event.target.checked })}
          />
        )}{" "}
        {first && (string?.protected ?? true) && <Fig path="pack/string_fuse" />}
      </td>
      {bank.battery?.sleeps && (
        <td>
          {first && (
            <input
              type="checkbox"
              className="form-check-input"
              aria-label={`Wake-up line of string ${number} is brought out`}
              checked={string?.wake_out ?? false}
              onChange={(event) => put({ wake_out: event.target.checked })}
            />
          )}
        </td>
      )}
      <td className="num">
        {first && cell("Lead", string?.lead_m, (v) => put({ lead_m: v }), String(bank.lead_m ?? ""))}
      </td>
      <td className="num faint">{unit}</td>
      <td className="num">{cell("Resting voltage", measured?.resting_v, (v) => put({}, { resting_v: v }))}</td>
      <td className="num">
        {cell(
          "Capacity",
          measured?.capacity_ah,
          (v) => put({}, { capacity_ah: v }),
          String(bank.battery?.capacity_ah ?? ""),
        )}
      </td>
      <td className="num">{cell("Year", measured?.year, (v) => put({}, { year: v === null ? null : Number(v) }))}</td>
    </tr>
  );
}
