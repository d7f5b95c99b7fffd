import { useState } from "react";
import { keep, kept } from "../design/browser";
import { useDesign } from "../design/store";
import { useOptions } from "./reference";

const SHEET_AT = "kegcart.labels.sheet";
const PLAIN = "plain-a4";

/** Labels to print: on which sheet, and from which of its labels on, as a sheet lasts longer than one build. */
export function LabelSheets({ file, label }: { file: string; label: string }) {
  const { design } = useDesign();
  const sheets = useOptions("label-sheet");
  const [wish, setWish] = useState(() => kept(SHEET_AT) ?? PLAIN);
  const [first, setFirst] = useState("1");
  const sheet = sheets.some(({ value }) => value === wish) ? wish : PLAIN;
  const from = Math.min(Math.max(Math.round(Number(first)) || 1, 1), 400);
  return (
    <span className="label-sheets">
      <select
        className="form-select form-select-sm w-auto"
        aria-label={`${label}: on which sheet`}
        value={sheet}
        onChange={(event) => {
          setWish(event.target.value);
          keep(SHEET_AT, event.target.value);
        }}
      >
        {sheets.map(({ value, label: said }) => (
          <option key={String(value)} value={String(value)}>
            {said}
          </option>
        ))}
      </select>
      <label className="text-nowrap">
        from no.{" "}
        <input
          className="form-control form-control-sm d-inline-block"
          inputMode="numeric"
          aria-label={`${label}: first label that is still on the sheet`}
          value={first}
          onChange={(event) => setFirst(event.target.value)}
          onBlur={() => setFirst(String(from))}
        />
      </label>
      <a
        className="btn btn-bare btn-sm text-nowrap"
        href={`/api/designs/${design.id}/${file}?sheet=${sheet}&first=${from}`}
        target="_blank"
        rel="noreferrer"
      >
        {label}
      </a>
    </span>
  );
}
