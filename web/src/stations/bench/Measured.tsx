import { useState } from "react";
import Button from "react-bootstrap/Button";
import { useDesign, useStore } from "../../design/store";
import type { FoundFigure } from "../../api/client";
import { Fig } from "../../figures/Figure";
import { useReference } from "../../figures/reference";
import { PutIn } from "./PutIn";

/** What was measured of the built station: what stands in the design, and a figure put in by hand. */
export function Measured() {
  const { design } = useDesign();
  const store = useStore();
  const known = useReference()?.measurable ?? [];
  const measured = design.document.bench.measured ?? {};
  const { figures, findings } = design.assessment;
  const standing = known.filter(({ key }) => key in measured);
  return (
    <>
      <h2 className="form-group-title">Measured of this station</h2>
      {standing.length === 0 ? (
        <p className="faint">
          Nothing yet: resistance, losses and heat are those of tables. A load test finds them out, and puts them here.
        </p>
      ) : (
        <div className="table-scroll">
          <table className="sheet-table measured-table">
            <tbody>
              {standing.map(({ key, label }) => (
                <tr key={key}>
                  <td>{label}</td>
                  <td className="num">
                    <Fig figure={figures[`measured/${key}`]} />
                  </td>
                  <td className="num faint">
                    {figures[`measured/${key}/doubt`] && (
                      <>
                        ± <Fig figure={figures[`measured/${key}/doubt`]} />
                      </>
                    )}
                  </td>
                  <td className="faint">{measured[key as keyof typeof measured]?.source}</td>
                  <td>
                    <button
                      type="button"
                      className="btn btn-bare btn-sm"
                      aria-label={`Take out: ${label}`}
                      onClick={() =>
                        store.change([{ op: "remove", path: `/bench/measured/${key}` }], `Take out: ${label}`)
                      }
                    >
                      take out
                    </button>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      <PutInByHand key={findings.length} />
    </>
  );
}

/** A figure that was found otherwise, put in by hand. */
function PutInByHand() {
  const known = useReference()?.measurable ?? [];
  const [key, setKey] = useState("");
  const [text, setText] = useState("");
  const [source, setSource] = useState("");
  const [given, setGiven] = useState<FoundFigure | null>(null);
  const unit = known.find((k) => k.key === key)?.unit;
  return (
    <form
      className="by-hand"
      aria-label="Put in a figure by hand"
      onSubmit={(event) => {
        event.preventDefault();
        setGiven({ key, text });
      }}
    >
      <select
        className="form-select form-select-sm"
        aria-label="Figure"
        value={key}
        onChange={(event) => setKey(event.target.value)}
      >
        <option value="">put in by hand…</option>
        {known.map((k) => (
          <option key={k.key} value={k.key}>
            {k.label}
          </option>
        ))}
      </select>
      {key && (
        <>
          <input
            className="form-control form-control-sm"
            aria-label="Measured"
            placeholder={unit === "share" ? "%" : unit === "Ω" ? "mΩ" : unit}
            value={text}
            onChange={(event) => setText(event.target.value)}
          />
          <input
            className="form-control form-control-sm"
            aria-label="How it was measured"
            placeholder="how, with what, when"
            maxLength={200}
            value={source}
            onChange={(event) => setSource(event.target.value)}
          />
          <Button type="submit" variant="quiet" size="sm" disabled={!text.trim() || !source.trim()}>
            See what it changes…
          </Button>
        </>
      )}
      {given && (
        <PutIn
          run=""
          source={source.trim()}
          figures={[given]}
          onHide={(put) => {
            setGiven(null);
            if (!put) return;
            setKey("");
            setText("");
            setSource("");
          }}
        />
      )}
    </form>
  );
}
