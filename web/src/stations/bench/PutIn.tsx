import { useQuery } from "@tanstack/react-query";
import Button from "react-bootstrap/Button";
import Modal from "react-bootstrap/Modal";
import { api, take, type FoundFigure, type PutInChanges } from "../../api/client";
import { freshKey } from "../../design/ids";
import { useRecordLine } from "../../design/record";
import { useDesign, useStore } from "../../design/store";
import { Fig } from "../../figures/Figure";
import { Mark } from "../../figures/Mark";
import { NotYet } from "../../figures/NotYet";

interface Props {
  /** The load test that found them; empty where they are of the design as it stands. */
  run: string;
  source: string;
  figures: FoundFigure[];
  onHide: (put: boolean) => void;
}

/** Measured figures on their way into the design: what they change is shown before. */
export function PutIn({ run, source, figures, onHide }: Props) {
  const { design } = useDesign();
  const store = useStore();
  const { line } = useRecordLine(design.id);
  const { data, error } = useQuery({
    queryKey: ["put-in", design.id, design.revision, run, source, figures],
    queryFn: () =>
      take(
        api.POST("/api/designs/{design_id}/put-in", {
          params: { path: { design_id: design.id } },
          body: { run, source, figures },
        }),
      ),
    retry: false,
  });
  const put = (changes: PutInChanges) => {
    store.change(changes.patch, figures.length === 1 ? "Put in a measured figure" : "Put in measured figures");
    changes.entries.forEach((entry) => line.write(freshKey(), entry));
    store.say("The measured figures stand in the design.", true);
    onHide(true);
  };
  return (
    <Modal show size="lg" onHide={() => onHide(false)} aria-labelledby="put-in-title">
      <Modal.Header closeButton>
        <h2 id="put-in-title">What the measured figures change</h2>
      </Modal.Header>
      <Modal.Body>
        {data ? (
          <Changes changes={data} aged={figures.some((f) => f.key === "capacity")} />
        ) : (
          <NotYet error={error} doing="Working it out…" />
        )}
      </Modal.Body>
      <Modal.Footer>
        <Button variant="quiet" onClick={() => onHide(false)}>
          Leave it as it is
        </Button>
        <Button disabled={!data} onClick={() => data && put(data)}>
          Put them in
        </Button>
      </Modal.Footer>
    </Modal>
  );
}

function Changes({ changes, aged }: { changes: PutInChanges; aged: boolean }) {
  const [before, after] = changes.run_time;
  const pinned = changes.patch.filter((o) => o.op === "replace").length;
  return (
    <>
      {before && after && (
        <p className="put-in-time">
          <span className="faint">{after.label}</span>
          <strong>
            <Fig figure={before} /> → <Fig figure={after} />
          </strong>
        </p>
      )}
      {changes.figures.length > 0 && (
        <table className="sheet-table">
          <thead>
            <tr>
              <th>figure</th>
              <th className="num">now</th>
              <th className="num">as measured</th>
            </tr>
          </thead>
          <tbody>
            {changes.figures.map((change) => (
              <tr key={change.label}>
                <td>{change.label}</td>
                <td className="num">
                  <Fig figure={change.before} />
                </td>
                <td className="num">
                  <Fig figure={change.after} />
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <Findings title="Found with them" findings={changes.came} />
      <Findings title="No longer found" findings={changes.gone} />
      {changes.came.length + changes.gone.length === 0 && (
        <p className="holds-note">
          <Mark kind="holds" hidden /> No finding comes or goes.
        </p>
      )}
      {aged && (
        <p className="faint mb-1">
          The capacity is what it holds today: that is what a test runs on. The days are planned for the age you chose,
          at <Fig path="pack/age_factor" /> of it.
        </p>
      )}
      <p className="faint mb-0">
        They stand in place of what tables say, each with its source, and can be taken out again.
        {pinned > 0 &&
          ` What they were measured of is built: ${pinned} automatic ${pinned > 1 ? "choices are" : "choice is"} pinned as ${pinned > 1 ? "they are" : "it is"}.`}
        {changes.entries.length > 0 && " The log has them too, and offers the parts as measured to the next build."}
      </p>
    </>
  );
}

function Findings({ title, findings }: { title: string; findings: PutInChanges["came"] }) {
  if (!findings.length) return null;
  return (
    <>
      <h3 className="put-in-findings">{title}</h3>
      {findings.map((f) => (
        <div className="d-flex gap-2 mb-1" key={f.id + f.place}>
          <Mark kind={f.severity} />
          <div>{f.text}</div>
        </div>
      ))}
    </>
  );
}
