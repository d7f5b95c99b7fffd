import { useId, useState } from "react";
import { freshKey } from "../../design/ids";
import { useRecorded, useRecordLine } from "../../design/record";
import { useDesign } from "../../design/store";
import type { Shown } from "../../design/units";
import { useReference } from "../../figures/reference";
import { useShown } from "../../figures/units";
import { KINDS, today, type EntryKind, type Typed } from "./kinds";
import { placesOf } from "./places";

export interface Draft {
  kind: EntryKind;
  /** Of what stands in the log and is changed; empty for something new. */
  item: string;
  fields: Record<string, string>;
}

/** What a note is asked for that says why the design was changed. */
const WHY: Typed = { name: "what", label: "Why it was changed", control: "text" };

/** What is typed into an entry; what is left empty is not said. */
export function EntryForm({
  draft,
  onDraft,
  onDone,
}: {
  draft: Draft;
  onDraft: (draft: Draft) => void;
  /** It was entered, or is left. */
  onDone: () => void;
}) {
  const { design } = useDesign();
  const { line } = useRecordLine(design.id);
  const degrees = useShown("°C");
  const [missing, setMissing] = useState("");
  const kind = KINDS[draft.kind];
  const set = (name: string, value: string) => {
    setMissing("");
    onDraft({ ...draft, fields: { ...draft.fields, [name]: value } });
  };
  const enter = () => {
    const { on = today(), ...typed } = draft.fields;
    const lacking = kind.fields.find((f) => !f.optional && !typed[f.name]?.trim());
    if (lacking) return setMissing(`“${lacking.label}” is still empty.`);
    const said = Object.entries(typed).filter(([, text]) => text.trim());
    const sent = said.map(([name, text]) => [name, name === "cell_c" ? degrees.sent(text) : text.trim()]);
    line.write(draft.item || freshKey(), { kind: draft.kind, on, ...Object.fromEntries(sent) });
    onDone();
  };
  return (
    <form
      className="log-form"
      aria-label={draft.item ? `Change: ${kind.name}` : `Enter: ${kind.name}`}
      onSubmit={(event) => {
        event.preventDefault();
        enter();
      }}
    >
      <div className="log-fields">
        <LogField label="Day">
          {(id) => (
            <input
              id={id}
              type="date"
              className="form-control form-control-sm"
              max={today()}
              value={draft.fields.on ?? today()}
              onChange={(event) => set("on", event.target.value)}
            />
          )}
        </LogField>
        {kind.fields.map((field, n) => (
          <Field
            key={field.name}
            field={draft.fields.of === "change" ? WHY : field}
            first={n === 0}
            value={draft.fields[field.name] ?? ""}
            part={draft.fields.place ?? ""}
            figure={draft.fields.field ?? ""}
            onValue={set}
          />
        ))}
        <LogField label="Remark" wide>
          {(id) => (
            <input
              id={id}
              className="form-control form-control-sm"
              maxLength={500}
              autoComplete="off"
              value={draft.fields.remark ?? ""}
              onChange={(event) => set("remark", event.target.value)}
            />
          )}
        </LogField>
      </div>
      <div className="log-enter">
        <button type="submit" className="btn btn-primary btn-sm">
          {draft.item ? "Change it" : "Enter it"}
        </button>
        <button type="button" className="btn btn-quiet btn-sm" onClick={onDone}>
          Leave it
        </button>
        {missing ? (
          <span className="problem" role="alert">
            {missing}
          </span>
        ) : (
          <span className="faint">{kind.says}</span>
        )}
      </div>
    </form>
  );
}

function LogField({
  label,
  wide,
  children,
}: {
  label: string;
  wide?: boolean;
  children: (id: string) => React.ReactNode;
}) {
  const id = useId();
  return (
    <div className={`field ${wide ? "wide" : ""}`}>
      <label className="name" htmlFor={id}>
        {label}
      </label>
      {children(id)}
    </div>
  );
}

function Field({
  field,
  first,
  value,
  part,
  figure,
  onValue,
}: {
  field: Typed;
  first: boolean;
  value: string;
  /** Where what is measured is, and which figure of it. */
  part: string;
  figure: string;
  onValue: (name: string, value: string) => void;
}) {
  const { design } = useDesign();
  const { life } = useRecorded();
  const measured = useMeasured();
  const figures = measured(part);
  const unit = field.unit ?? (field.name === "value" ? figures.find((f) => f.field === figure)?.unit : undefined);
  const shown = useShown(unit);
  const choices: [string, string][] | null =
    field.control === "place"
      ? [["", "the whole"], ...placesOf(design.document)]
      : field.control === "fault"
        ? [["", "none that was entered"], ...(life?.faults ?? []).map((f): [string, string] => [f.item, f.what])]
        : field.control === "visit"
          ? [["", "choose"], ...(life?.visits ?? []).map((v): [string, string] => [v.key, v.label])]
          : field.control === "part"
            ? [["", "choose"], ...placesOf(design.document).filter(([at]) => measured(at).length)]
            : field.control === "figure"
              ? [["", "choose"], ...figures.map((f): [string, string] => [f.field, f.label])]
              : null;
  // What is named already stays to be seen, though it is none of what can be chosen now.
  if (choices && value && !choices.some(([key]) => key === value)) choices.push([value, "as it was entered"]);
  return (
    <LogField label={field.label} wide={field.control === "text"}>
      {(id) =>
        choices ? (
          <select
            id={id}
            className="form-select form-select-sm"
            value={value}
            autoFocus={first}
            onChange={(event) => onValue(field.name, event.target.value)}
          >
            {choices.map(([key, label]) => (
              <option key={key} value={key}>
                {label.slice(0, 60)}
              </option>
            ))}
          </select>
        ) : (
          <span className={unit ? "with-unit" : ""}>
            <input
              id={id}
              className="form-control form-control-sm"
              autoComplete="off"
              autoFocus={first}
              inputMode={unit ? "decimal" : undefined}
              maxLength={unit ? 60 : 500}
              placeholder={field.placeholder}
              value={value}
              onChange={(event) => onValue(field.name, event.target.value)}
            />
            {unit && <span className="unit">{shown.unit}</span>}
          </span>
        )
      }
    </LogField>
  );
}

/** What a meter finds out of a part, by its place in the design. */
function useMeasured() {
  const { network } = useDesign().design.document.power;
  const kinds = useReference()?.parts ?? [];
  return (place: string) => {
    const [, , list, key = ""] = place.split("/");
    const kind = list === "network" ? kinds.find((k) => k.key === network[key]?.part) : undefined;
    return kind?.fields.filter((f) => kind.measured.includes(f.field)) ?? [];
  };
}

/** What the server adds of a part that was measured. */
const ADDED = ["kind", "part", "called", "figures"];

/** What of an entry is typed, in words that can be changed. degrees: how temperatures are shown and typed in this build. */
export function typedOf(data: Record<string, unknown>, degrees: Shown): Record<string, string> {
  const plain = (name: string, value: number) =>
    name === "cell_c" ? degrees.to(value) : Number(value.toPrecision(10));
  return Object.fromEntries(
    Object.entries(data)
      .filter(([name]) => !ADDED.includes(name))
      .map(([name, value]) => [name, typeof value === "number" ? String(plain(name, value)) : String(value ?? "")]),
  );
}
