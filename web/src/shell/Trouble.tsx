import { useState } from "react";
import Button from "react-bootstrap/Button";
import { useNavigate } from "react-router";
import { useDesign, useStore } from "../design/store";

const edits = (n: number) => (n === 1 ? "1 edit waits" : `${n} edits wait`);

/** What stands in the way of storing: what has happened, what stands, and what to do. */
export function Trouble() {
  const store = useStore();
  const navigate = useNavigate();
  const { trouble, away, waiting, keeps } = useDesign();
  const [seen, setSeen] = useState(false);
  const [problem, setProblem] = useState("");
  const lost = trouble?.kind === "deleted" || trouble?.kind === "missing";
  const bringBack = async () => {
    setProblem("");
    try {
      void navigate(`/build/${await store.bringBack()}/loads`);
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  if (!trouble && !away && (keeps || seen)) return null;
  const where = keeps ? "in this browser" : "on this page: leave it open";
  return (
    <div className="trouble" role="alert">
      {trouble && (
        <p>
          {trouble.kind === "deleted" && "This build was taken off the shelf in another window. "}
          {trouble.kind === "missing" && "The server does not know this build any more. "}
          {!lost && `${trouble.message} `}
          {edits(waiting)} {where}
          {lost ? "." : `, and ${waiting === 1 ? "is" : "are"} stored as soon as it can be. No figure counts that yet.`}
          {problem && ` ${problem}`}
          {lost && (
            <Button size="sm" onClick={() => void bringBack()}>
              {trouble.kind === "deleted" ? "Put it back on the shelf" : "Make it anew from this screen"}
            </Button>
          )}
        </p>
      )}
      {!trouble && away && (
        <p>
          {away.message} Shown is the build as this browser last had it; what you type waits until the server answers.
        </p>
      )}
      {!trouble && !away && (
        <p>
          This browser cannot keep what waits to be stored: its storage is full or blocked. Edits are sent as always;
          leave this page open until it says “all stored”.
          <Button variant="bare" size="sm" aria-label="dismiss" onClick={() => setSeen(true)}>
            ✕
          </Button>
        </p>
      )}
    </div>
  );
}
