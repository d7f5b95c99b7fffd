import { useEffect, useState } from "react";
import Button from "react-bootstrap/Button";
import Modal from "react-bootstrap/Modal";
import { useDraft } from "../../../design/browser";
import { useOptions } from "../../../figures/reference";
import { api, take, type CellTable, type Pack } from "../../../api/client";
import { ProblemList } from "../../../figures/ProblemList";

type Chosen = Record<number, { field: string | null; unit: string }>;

interface Props {
  pack: Pack;
  onHide: () => void;
  onAdded: (count: number) => void;
}

/** Cells from a file or a pasted table: how each column is read is shown first, and can be set right. */
export function ImportCells({ pack, onHide, onAdded }: Props) {
  const [kept, setText] = useDraft("import-cells");
  const text = kept ?? "";
  const [chosen, setChosen] = useState<Chosen>({});
  const ways = useOptions("Cell.resistance_by");
  const [by, setBy] = useState<"1khz" | "dc">("1khz");
  const [rated, setRated] = useState("");
  const [table, setTable] = useState<CellTable | null>(null);
  const [problem, setProblem] = useState("");
  const body = {
    text,
    chemistry: pack.chemistry,
    resistance_by: by,
    rated_ah: Number(rated.replace(",", ".")) || null,
    columns: Object.entries(chosen).map(([index, c]) => ({ index: Number(index), ...c })),
  };
  const asked = JSON.stringify(body);
  useEffect(() => {
    if (!text.trim()) return;
    let current = true;
    const timer = window.setTimeout(() => {
      take(api.POST("/api/rack/read", { body: JSON.parse(asked) })).then(
        (read) => {
          if (!current) return;
          setTable(read);
          setProblem("");
        },
        (error: Error) => {
          if (!current) return;
          setTable(null);
          setProblem(error.message);
        },
      );
    }, 250);
    return () => {
      current = false;
      window.clearTimeout(timer);
    };
  }, [asked, text]);
  const shown = text.trim() ? table : null;
  const fields = shown?.fields ?? [];
  const add = async () => {
    try {
      const { added } = await take(api.POST("/api/rack/import", { body: body }));
      onAdded(added);
      setText(null);
      onHide();
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  return (
    <Modal show onHide={onHide} size="lg" scrollable aria-labelledby="import-cells-title">
      <Modal.Header closeButton>
        <h2 id="import-cells-title">Cells from a table</h2>
      </Modal.Header>
      <Modal.Body>
        <div className="d-flex gap-3 align-items-end mb-2">
          <label className="field" htmlFor="cells-file">
            <span className="name">A CSV file, or paste below</span>
            <input
              id="cells-file"
              type="file"
              accept=".csv,.txt,.tsv,text/csv,text/plain"
              className="form-control form-control-sm"
              onChange={(event) => {
                const file = event.target.files?.[0];
                if (file) void file.text().then(setText);
              }}
            />
          </label>
          <label className="field" htmlFor="cells-rated">
            <span className="name">Rated, if no column says it</span>
            <span className="with-unit">
              <input
                id="cells-rated"
                className="form-control form-control-sm"
                value={rated}
                onChange={(event) => setRated(event.target.value)}
              />
              <span className="unit">Ah</span>
            </span>
          </label>
          <label className="field" htmlFor="cells-by">
            <span className="name">Resistance measured</span>
            <select
              id="cells-by"
              className="form-select form-select-sm"
              value={by}
              onChange={(event) => setBy(event.target.value as "1khz" | "dc")}
            >
              {ways.map((w) => (
                <option key={String(w.value)} value={String(w.value)}>
                  {w.label}
                </option>
              ))}
            </select>
          </label>
        </div>
        <textarea
          className="form-control mono"
          rows={6}
          aria-label="Table of cells"
          placeholder={"label;capacity mAh;resistance mΩ;voltage\nA-001;2310;44,2;4,12"}
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
        {problem && (
          <p className="problem mt-2" role="alert">
            {problem}
          </p>
        )}
        {shown && (
          <>
            <h3 className="mt-3">How the columns are read</h3>
            <div className="table-scroll">
              <table className="sheet-table small-figure">
                <thead>
                  <tr>
                    <th>column</th>
                    <th>is the</th>
                    <th>in</th>
                    <th />
                  </tr>
                </thead>
                <tbody>
                  {shown.columns.map((column, i) => {
                    const units = fields.find((f) => f.key === column.field)?.units ?? [];
                    return (
                      <tr key={i}>
                        <td>{column.header}</td>
                        <td>
                          <select
                            className="cell-input"
                            aria-label={`What column ${column.header} is`}
                            value={column.field ?? ""}
                            onChange={(event) =>
                              setChosen({ ...chosen, [i]: { field: event.target.value || null, unit: "" } })
                            }
                          >
                            <option value="">left out</option>
                            {fields.map((f) => (
                              <option key={f.key} value={f.key}>
                                {f.label}
                              </option>
                            ))}
                          </select>
                        </td>
                        <td>
                          {units.length > 0 && (
                            <select
                              className="cell-input"
                              aria-label={`Unit of column ${column.header}`}
                              value={column.unit}
                              onChange={(event) =>
                                setChosen({ ...chosen, [i]: { field: column.field ?? null, unit: event.target.value } })
                              }
                            >
                              {units.map((unit) => (
                                <option key={unit}>{unit}</option>
                              ))}
                            </select>
                          )}
                        </td>
                        <td>{column.guessed && <span className="chip">guessed: look at it</span>}</td>
                      </tr>
                    );
                  })}
                </tbody>
              </table>
            </div>
            <ProblemList problems={shown.problems} />
            {shown.count > 0 && (
              <p className="mt-2 mb-0">
                {shown.count} cells read well:{" "}
                {shown.first
                  .slice(0, 3)
                  .map((c) => `${c.label} ${c.capacity_ah ?? "–"} Ah ${c.resistance_mohm ?? "–"} mΩ`)
                  .join("; ")}
                …
              </p>
            )}
          </>
        )}
      </Modal.Body>
      <Modal.Footer>
        <Button disabled={!shown?.count} onClick={() => void add()}>
          {shown?.count ? `Put ${shown.count} on the rack` : "Put on the rack"}
        </Button>
      </Modal.Footer>
    </Modal>
  );
}
