import { Fragment, useState } from "react";
import type { Figure } from "../api/client";
import { useDesign } from "../design/store";

/** `P_ac` with its subscript set low. */
function Symbol({ text }: { text: string }) {
  const [head, ...low] = text.split("_");
  return (
    <>
      {head}
      {low.length > 0 && <sub>{low.join(" ")}</sub>}
    </>
  );
}

const WORDS: Record<string, string> = { sum: "the sum of", max: "the greatest of", min: "the least of" };

function Formula({ figure }: { figure: Figure }) {
  const formula = figure.formula ?? "";
  if (formula in WORDS) {
    return (
      <>
        <Symbol text={figure.symbol ?? ""} /> = {WORDS[formula]}
      </>
    );
  }
  const symbols = Object.keys(figure.inputs ?? {}).sort((a, b) => b.length - a.length);
  const escaped = symbols.map((s) => s.replace(/[.*+?^${}()|[\]\\]/g, "\\$&"));
  const parts = escaped.length ? formula.split(new RegExp(`(${escaped.join("|")})`)) : [formula];
  return (
    <>
      <Symbol text={figure.symbol ?? ""} /> ={" "}
      {parts.map((part, i) => (
        <Fragment key={i}>{symbols.includes(part) ? <Symbol text={part} /> : part.replaceAll("^2", "²")}</Fragment>
      ))}
    </>
  );
}

const BASIS: Record<string, string> = {
  decision: "Decided in this design.",
  standard: "Standard",
  typical: "Typical, replace it by your own",
  maker: "By the maker",
  measured: "Measured of this station",
  computed: "",
};

/**
 * How a figure was worked out: formula, inputs with their values, source.
 * With `follow`, each input can be opened in turn, down to decisions and tables.
 */
export function Working({ figure, follow }: { figure: Figure; follow?: (figure: Figure) => void }) {
  const { design } = useDesign();
  const figures = design.assessment.figures;
  const [all, setAll] = useState(false);
  const money = design.document.brief.currency;
  const resolve = (input: Figure): Figure =>
    input.path && figures[input.path] ? { ...figures[input.path], path: input.path } : input;
  const say = (f: Figure) => (f.unit === "money" ? `${f.text} ${money}` : (f.text ?? ""));
  const inputs = Object.entries(figure.inputs ?? {}).map(([symbol, input]) => [symbol, resolve(input)] as const);
  const title = figure.label || figure.symbol || "";
  const shown = all || follow ? inputs : inputs.slice(0, 7);
  return (
    <div className="working">
      <div>
        <strong>
          {title[0]?.toUpperCase() + title.slice(1)}: {say(figure)}
        </strong>{" "}
        {figure.choice && <span className={`chip ${figure.choice}`}>{figure.choice}</span>}
      </div>
      {figure.formula && (
        <div className="formula">
          <Formula figure={figure} />
        </div>
      )}
      {figure.how && <div className="how">{figure.how[0]?.toUpperCase() + figure.how.slice(1)}.</div>}
      {shown.length > 0 && (
        <ul>
          {shown.map(([symbol, input]) => {
            // Inputs of a sum go by the name of what they belong to, all others by their symbol.
            const named = symbol.includes(" ") && !figure.formula?.includes(symbol);
            const what = (
              <>
                {named ? symbol.replace(/ \([a-z0-9-]+\)$/, "") : <Symbol text={symbol} />}{" "}
                {input.label && !named && <span className="faint">{input.label}</span>}
              </>
            );
            return (
              <li key={symbol}>
                {follow ? (
                  <button type="button" className="step" onClick={() => follow(input)}>
                    {what} ▸
                  </button>
                ) : (
                  <span>{what}</span>
                )}
                <strong>
                  {say(input)}
                  {figure.formula && input.worked_in && <span className="faint"> ({input.worked_in})</span>}
                </strong>
              </li>
            );
          })}
        </ul>
      )}
      {inputs.length > shown.length && (
        <button type="button" className="btn btn-bare btn-sm" onClick={() => setAll(true)}>
          {inputs.length - shown.length} more
        </button>
      )}
      {figure.basis && figure.basis !== "computed" && (
        <p className="basis">
          {BASIS[figure.basis]}
          {figure.source && figure.basis !== "decision" && `: ${figure.source}.`}
        </p>
      )}
    </div>
  );
}
