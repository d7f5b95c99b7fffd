import { shownIn, type Shown } from "../../design/units";
import { useShown } from "../../figures/units";
import type { Bank } from "../../api/client";
import { useDraft } from "../../design/browser";
import { useDesign, useStore } from "../../design/store";
import { SelectField } from "../../figures/fields";
import { Fig } from "../../figures/Figure";
import { QuantityInput } from "../../figures/QuantityInput";

/** Strings in parallel: how they are joined, and what was measured of each. */
export function Strings({ bank }: { bank: Bank }) {
  const { design } = useDesign();
  const length = useShown("m");
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
        <QuantityInput pointer="/pack/lead/length_m" label="Lead of each string" unit="m" />
        <SelectField
          pointer="/pack/lead/gauge"
          label="Gauge of the leads"
          empty={`auto: ${text("pack/string/1/run/gauge")}`}
          list="gauge"
        />
        <QuantityInput pointer="/pack/link/length_m" label="Link, battery to battery" unit="m" />
        <SelectField
          pointer="/pack/link/gauge"
          label="Gauge of the links"
          empty={`auto: ${text("pack/link_run/run/gauge")}`}
          list="gauge"
        />
      </div>
      <table className="sheet-table mt-2">
        <thead>
          <tr>
            <th>string</th>
            <th className="num">share</th>
            <th>own fuse</th>
            {bank.battery?.sleeps && <th>wake-up line</th>}
            <th className="num">lead, {length.unit}</th>
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

const AS_KEPT = shownIn(undefined, undefined);

/** A figure as it is shown; what is typed and not stored yet, as it was typed. */
const written = (value: unknown, shown: Shown) =>
  typeof value === "number" ? String(shown.to(value)) : String(value ?? "");

function StringRow({ bank, name, number, unit }: { bank: Bank; name: string; number: number; unit: number }) {
  const store = useStore();
  const ahead = useDesign().ahead.pack;
  const length = useShown("m");
  const at = `/pack/strings/${name}`;
  const string = "strings" in ahead ? ahead.strings?.[name] : undefined;
  const measured = string?.units?.[`u${unit}`];
  /** Puts one field of the string, or of its unit, writing what is not there yet. */
  const put = (field: string, changes: Record<string, unknown>, ofUnit?: Record<string, unknown>, typed?: string) => {
    const units = ofUnit ? { ...string?.units, [`u${unit}`]: { ...measured, ...ofUnit } } : (string?.units ?? {});
    const value = { ...string, ...changes, units };
    store.change(
      [{ op: string ? "replace" : "add", path: at, value }],
      `String ${number} changed`,
      `${at}/${field}`,
      typed,
    );
  };
  const cell = (label: string, field: string, own: boolean, value: unknown, hint?: unknown, shown: Shown = AS_KEPT) => (
    <StringCell
      label={`${label}, string ${number}, unit ${unit}`}
      pointer={`${at}/${own ? field : `u${unit}/${field}`}`}
      stored={written(value, shown)}
      hint={written(hint, shown)}
      onTake={(typed) => {
        const change = { [field]: shown.sent(typed).trim() || null };
        if (own) put(field, change, undefined, typed);
        else put(`u${unit}/${field}`, {}, change, typed);
      }}
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
            onChange={(event) => put("protected", { protected: event.target.checked })}
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
              onChange={(event) => put("wake_out", { wake_out: event.target.checked })}
            />
          )}
        </td>
      )}
      <td className="num">{first && cell("Lead", "lead_m", true, string?.lead_m, bank.lead?.length_m, length)}</td>
      <td className="num faint">{unit}</td>
      <td className="num">{cell("Resting voltage", "resting_v", false, measured?.resting_v)}</td>
      <td className="num">
        {cell("Capacity", "capacity_ah", false, measured?.capacity_ah, bank.battery?.capacity_ah)}
      </td>
      <td className="num">{cell("Year", "year", false, measured?.year)}</td>
    </tr>
  );
}

/** A figure of a string or unit, taken when it is left; half-typed it outlives a reload, refused it stays with its reason. */
function StringCell(props: {
  label: string;
  pointer: string;
  stored: string;
  hint: string;
  onTake: (typed: string) => void;
}) {
  const { label, pointer, stored, hint, onTake } = props;
  const store = useStore();
  const { design } = useDesign();
  const [draft, setDraft] = useDraft(`${design.id}${pointer}`);
  const change = store.pending(pointer);
  const keep = () => {
    if (draft !== null && draft !== stored) onTake(draft);
    setDraft(null);
  };
  return (
    <>
      <input
        className={`cell-input${change?.problem ? " bad" : ""}`}
        aria-label={label}
        aria-invalid={Boolean(change?.problem)}
        value={draft ?? change?.typed ?? stored}
        placeholder={hint}
        onChange={(event) => setDraft(event.target.value)}
        onBlur={keep}
        onKeyDown={(event) => {
          if (event.key === "Enter") keep();
          if (event.key === "Escape") {
            setDraft(null);
            store.forget(pointer);
          }
        }}
      />
      {change?.problem && (
        <span className="problem" role="alert">
          {change.problem}
        </span>
      )}
    </>
  );
}
