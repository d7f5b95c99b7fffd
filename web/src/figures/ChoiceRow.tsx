import { useId } from "react";
import { useDesign, useStore } from "../design/store";
import { Fig } from "./Figure";
import { useReference } from "./reference";
import { TypedInput, WhyNot } from "./TypedInput";
import { usePending, useTyped } from "./typed";

/**
 * A sized choice: auto as the core picked it, or pinned by the builder. Choosing from the list pins it,
 * the chip gives it back to auto.
 */
export function ChoiceRow({ path, label }: { path: string; label: string }) {
  const store = useStore();
  const { design } = useDesign();
  const reference = useReference();
  const id = useId();
  const figure = design.assessment.figures[path];
  const pointer = figure?.pointer ?? "";
  const { value: decided, waiting, problem } = usePending(pointer);
  if (!figure) return null;
  const options = reference?.options[figure.options ?? ""] ?? [];
  const pinned = waiting ? decided !== null : figure.choice === "pinned";
  // A rating is typed; what has a name is chosen.
  const typed = options.length > 0 && options.every((o) => typeof o.value === "number");
  // Families and connectors show their label; what the design writes is their key.
  const current = options.find((o) => o.value === (waiting ? decided : (figure.key ?? figure.value)));
  const pin = (value: string | number | boolean | null, text: string) =>
    store.put(pointer, value, value === null ? `${label} back to auto` : `${label} pinned: ${text}`);
  return (
    <div data-choice={pointer}>
      <dt>
        <label htmlFor={options.length ? id : undefined}>{label}</label>{" "}
        <button
          type="button"
          className={`chip choice-button ${pinned ? "pinned" : ""}`}
          aria-label={pinned ? `${label}: pinned, give back to auto` : `${label}: auto, pin ${figure.text}`}
          onClick={() => (pinned ? pin(null, "") : pin(figure.key ?? figure.value ?? null, figure.text ?? ""))}
        >
          {pinned ? "pinned" : "auto"}
        </button>
      </dt>
      <dd>
        <Fig path={path} />
        {typed ? (
          <TypedChoice
            id={id}
            pointer={pointer}
            label={label}
            auto={figure.text ?? ""}
            pinned={pinned}
            unit={figure.unit ?? ""}
            options={options}
          />
        ) : (
          options.length > 0 && (
            <select
              id={id}
              className="form-select form-select-sm mt-1"
              value={String(current?.value ?? "")}
              onChange={(event) => {
                const option = options.find((o) => String(o.value) === event.target.value);
                if (option) pin(option.value, option.label);
              }}
            >
              {!current && <option value="">{figure.text}</option>}
              {options.map((option) => (
                <option key={String(option.value)} value={String(option.value)}>
                  {option.label}
                </option>
              ))}
            </select>
          )
        )}
        {problem && !typed && <span className="problem">{problem}</span>}
      </dd>
    </div>
  );
}

interface Listed {
  value: string | number | boolean;
  label: string;
}

/** A rating typed freely; the list holds those that are usual. Empty gives it back to auto. */
function TypedChoice({
  id,
  pointer,
  label,
  auto,
  pinned,
  unit,
  options,
}: {
  id: string;
  pointer: string;
  label: string;
  auto: string;
  pinned: boolean;
  unit: string;
  options: Listed[];
}) {
  const show = (value: unknown) => (typeof value === "number" ? String(Number(value.toPrecision(6))) : "");
  const typed = useTyped(pointer, label, (text) => (text.trim() === "" ? null : text), show);
  return (
    <>
      <span className="typed-choice mt-1">
        <TypedInput id={id} typed={typed} list={`${id}-list`} placeholder={pinned ? "" : auto} />
        <span className="unit">{unit}</span>
      </span>
      <datalist id={`${id}-list`}>
        {options.map((option) => (
          <option key={String(option.value)} value={String(option.value)} />
        ))}
      </datalist>
      <WhyNot id={id} typed={typed} otherwise={auto} />
    </>
  );
}
