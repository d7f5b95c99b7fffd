import { useState } from "react";
import Button from "react-bootstrap/Button";
import { Link } from "react-router";
import { Mark } from "../figures/Mark";
import { Logo } from "./Logo";
import { useForeseen } from "../design/forecast";
import { STATIONS } from "../design/stations";
import { useDesign, useStore } from "../design/store";
import { useTyped } from "../figures/typed";
import { Refused } from "./Refused";
import { chooseTheme, storedTheme } from "./theme";

const FORESEEN = {
  working: "the days are being simulated: what they say comes in a moment",
  failed: "the days could not be simulated: what they would say is not among the findings",
};
const STATUS = { saved: "all stored", sending: "storing…", unsent: "" };

export function TopBar({
  onSearch,
  onHelp,
  onVerdict,
}: {
  onSearch: () => void;
  onHelp: () => void;
  onVerdict: () => void;
}) {
  const store = useStore();
  const { design, status, waiting, takenBack } = useDesign();
  const [theme, setTheme] = useState(storedTheme);
  const title = useTyped("/name", "Name of the build");
  const { verdict, checks, begun } = design.assessment;
  const judged = checks.filter((check) => check.verdict !== "open").length;
  // A log begins with the life of the build: until then nothing is missing.
  const notBegun = STATIONS.filter(({ key }) => key !== "log" && !begun.includes(key)).map(({ name }) => name);
  const allHolds = !verdict.stop && !verdict.mend && judged === checks.length && !notBegun.length;
  const foreseen = useForeseen().state;
  const other = theme === "dark" ? "light" : "dark";
  return (
    <header className="topbar">
      <Link to="/" className="home" aria-label="To the shelf of builds">
        <Logo />
      </Link>
      <input
        className="title-input"
        aria-label="Name of the build"
        title={design.document.name}
        maxLength={80}
        {...title.field}
        onBlur={() => {
          title.field.onBlur();
          if (title.problem) title.forget();
        }}
        onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
      />
      <span className={`saved-state ${status}`} role="status">
        {status === "unsent" ? `${waiting} not sent yet` : STATUS[status]}
      </span>
      <Refused />
      <span className="push" />
      <Button
        variant="bare"
        size="sm"
        disabled={design.history.undo === null && waiting === 0}
        title={design.history.undo ? `undo: ${design.history.undo}` : "nothing to undo"}
        onClick={() => store.step("undo")}
      >
        undo
      </Button>
      <Button
        variant="bare"
        size="sm"
        disabled={design.history.redo === null && takenBack === 0}
        title={design.history.redo ? `redo: ${design.history.redo}` : "nothing to redo"}
        onClick={() => store.step("redo")}
      >
        redo
      </Button>
      <button type="button" className="verdict" onClick={onVerdict} title="to the worst finding">
        <span className="visually-hidden">Verdict:</span>
        {allHolds && <Mark kind="holds" hidden />}
        {(["stop", "mend", "note"] as const).map((severity) => (
          <span key={severity} className={verdict[severity] ? "" : "none"}>
            <Mark kind={severity} hidden /> {verdict[severity]} <span className="visually-hidden">{severity}s</span>
          </span>
        ))}
        <span className="judged" title={notBegun.length ? `not begun: ${notBegun.join(", ")}` : undefined}>
          {judged} of {checks.length}
          <span className="words"> judged</span>
        </span>
        {foreseen !== "there" && (
          <span className="foreseen" role="status" title={FORESEEN[foreseen]}>
            {foreseen === "working" ? "days…" : "days ?"}
            <span className="visually-hidden">{FORESEEN[foreseen]}</span>
          </span>
        )}
      </button>
      <Button variant="bare" size="sm" onClick={onSearch}>
        / search
      </Button>
      <Button
        variant="bare"
        size="sm"
        aria-label={`${other} theme`}
        onClick={() => {
          chooseTheme(other);
          setTheme(other);
        }}
      >
        {other}
      </Button>
      <Button variant="bare" size="sm" onClick={onHelp}>
        ? keys
      </Button>
    </header>
  );
}
