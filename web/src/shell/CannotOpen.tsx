import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import Button from "react-bootstrap/Button";
import { Link } from "react-router";
import { api, done, Failure, take } from "../api/client";

interface Props {
  id: string;
  failure: Failure;
  onAgain: () => void;
}

const SHOWN = 12;

/** A build that cannot be opened: why, what stands, and the ways on. */
export function CannotOpen({ id, failure, onAgain }: Props) {
  const [problem, setProblem] = useState("");
  const at = { params: { path: { design_id: id } } };
  const attempt = (work: Promise<unknown>) => {
    setProblem("");
    work.then(onAgain, (error: Error) => setProblem(error.message));
  };
  return (
    <main className="shelf-page p-5">
      <h1>This build cannot be opened.</h1>
      <p>
        {failure.message} {failure.kind !== "missing" && "What was stored is still there."}
      </p>
      {problem && (
        <p className="problem" role="alert">
          {problem}
        </p>
      )}
      <p className="d-flex gap-2">
        {failure.kind === "deleted" && (
          <Button onClick={() => attempt(done(api.POST("/api/designs/{design_id}/restore", at)))}>
            Put it back on the shelf
          </Button>
        )}
        {failure.passes && <Button onClick={onAgain}>Try again</Button>}
        {failure.kind === "unreadable" && (
          <a className="btn btn-primary" href={`/api/designs/${id}/file`} download>
            Download its file
          </a>
        )}
        <Link className="btn btn-quiet" to="/">
          To the shelf
        </Link>
      </p>
      {failure.kind === "unreadable" && (
        <Earlier
          id={id}
          onChosen={(to) => attempt(take(api.POST("/api/designs/{design_id}/go-back", { ...at, body: { to } })))}
        />
      )}
    </main>
  );
}

/** Its file as it lies there, and the earlier states that can be gone back to. */
function Earlier({ id, onChosen }: { id: string; onChosen: (to: number) => void }) {
  const earlier = useQuery({
    queryKey: ["earlier", id],
    queryFn: () => take(api.GET("/api/designs/{design_id}/earlier", { params: { path: { design_id: id } } })),
  });
  const file = useQuery({
    queryKey: ["file", id],
    queryFn: async () => {
      const response = await fetch(`/api/designs/${id}/file`);
      const text = await response.text();
      try {
        return JSON.stringify(JSON.parse(text), null, 2);
      } catch {
        return text; // damaged, it is shown as it lies there
      }
    },
  });
  const states = earlier.data ?? [];
  return (
    <div className="unreadable-build">
      <section>
        <h2>Earlier states</h2>
        {earlier.data && !states.length && <p className="faint">There is none before this one.</p>}
        <ol>
          {states.slice(0, SHOWN).map((state) => (
            <li key={state.id}>
              <span>after “{state.label}”</span> <time>{new Date(state.at).toLocaleString()}</time>
              <Button size="sm" variant="quiet" onClick={() => onChosen(state.id)}>
                Go back to it
              </Button>
            </li>
          ))}
        </ol>
        <p className="faint">Nothing is lost by it: the file stays in the history.</p>
      </section>
      <section>
        <h2>Its file, to read only</h2>
        <textarea className="form-control mono" readOnly rows={14} aria-label="The file" value={file.data ?? ""} />
      </section>
    </div>
  );
}
