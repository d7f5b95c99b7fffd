import { useState } from "react";
import type { Check, Finding } from "../api/client";
import { findingKey } from "../design/selection";
import { useDesign } from "../design/store";
import { Fig } from "./Figure";
import { Mark, type MarkKind } from "./Mark";
import { useReference } from "./reference";

const WORST_FIRST: MarkKind[] = ["stop", "mend", "note", "open", "holds"];
const RANK: Record<Check["verdict"], number> = { fails: 0, open: 1, holds: 2 };

/** What fails first, then what waits, then what holds: the closest to its limit first, what was not compared last. */
export const closestFirst = (checks: readonly Check[]): Check[] =>
  [...checks].sort((a, b) => RANK[a.verdict] - RANK[b.verdict] || (b.used ?? -1) - (a.used ?? -1));

/** Used of what is allowed, in percent; what is far beyond is said as such. */
export const usedText = (used: number | undefined | null) =>
  used === undefined || used === null ? "" : used > 9.995 ? "> 999 %" : `${Math.round(used * 100)} %`;

/** The mark of a check: of its finding where it fails. */
export function useCheckMark(): (check: Check) => MarkKind {
  const { findings } = useDesign().design.assessment;
  return (check) =>
    check.verdict === "fails"
      ? (findings.find((f: Finding) => findingKey(f) === findingKey(check))?.severity ?? "stop")
      : check.verdict;
}

const many = (n: number, one: string, more: string) => (n > 0 ? [`${n} ${n === 1 ? one : more}`] : []);

/** "126 checks: 124 hold, 1 is noted, 1 waits". What fails by no more than a note is noted. */
export function useCountText(): (checks: readonly Check[]) => string {
  const markOf = useCheckMark();
  return (checks) => {
    const marks = checks.map(markOf);
    const count = (...kinds: MarkKind[]) => marks.filter((mark) => kinds.includes(mark)).length;
    const parts = [
      ...many(count("holds"), "holds", "hold"),
      ...many(count("stop", "mend"), "fails", "fail"),
      ...many(count("note"), "is noted", "are noted"),
      ...many(count("open"), "waits", "wait"),
    ];
    return `${checks.length === 1 ? "1 check" : `${checks.length} checks`}: ${parts.join(", ")}`;
  };
}

/** How it came out for what was judged: how many hold and the closest of them, how many fail, how many wait. */
export function CheckSummary({ checks, named = false }: { checks: Check[]; named?: boolean }) {
  const rules = useReference()?.checks;
  const markOf = useCheckMark();
  const countText = useCountText();
  const marks = checks.map(markOf);
  const worst = WORST_FIRST.find((kind) => marks.includes(kind));
  const closest = closestFirst(checks).find((c) => c.verdict === "holds" && c.used);
  if (checks.length === 0) return <p className="faint mb-1">Nothing is judged here yet.</p>;
  return (
    <p className="check-summary">
      {worst && <Mark kind={worst} hidden />}
      <span>
        {countText(checks)}.
        {closest && (
          <>
            {" "}
            The closest of those that hold is at {usedText(closest.used)} of its limit: {named && `${closest.about}, `}
            {rules?.[closest.id]?.title ?? closest.id}.
          </>
        )}
      </span>
    </p>
  );
}

/** A list of checks, each opening to what must be so, its figures with their working, and what it rests on. */
export function CheckList({ checks, named = false }: { checks: Check[]; named?: boolean }) {
  return (
    <ul className="check-list">
      {checks.map((check, i) => (
        <CheckItem key={`${findingKey(check)} ${i}`} check={check} named={named} />
      ))}
    </ul>
  );
}

function CheckItem({ check, named }: { check: Check; named: boolean }) {
  const rule = useReference()?.checks[check.id];
  const markOf = useCheckMark();
  const [open, setOpen] = useState(false);
  return (
    <li>
      <button type="button" className="check-line" aria-expanded={open} onClick={() => setOpen(!open)}>
        <Mark kind={markOf(check)} />
        <span className="what">
          {named && <span className="faint">{check.about}: </span>}
          {rule?.title ?? check.id}
        </span>
        <span className="used">{check.verdict === "open" ? "waits" : usedText(check.used)}</span>
      </button>
      {open && (
        <div className="check-working">
          <p>{rule?.requires}</p>
          {check.missing && <p>Cannot be judged yet. Missing: {check.missing}.</p>}
          {check.figure && check.limit && (
            <dl className="figure-list">
              <CheckFigure figure={check.figure} />
              <CheckFigure figure={check.limit} bound={check.bound} />
            </dl>
          )}
          {rule?.source && <p className="basis">Source: {rule.source}.</p>}
        </div>
      )}
    </li>
  );
}

function CheckFigure({ figure, bound }: { figure: NonNullable<Check["figure"]>; bound?: Check["bound"] }) {
  const { figures } = useDesign().design.assessment;
  const label = (figure.path ? figures[figure.path]?.label : figure.label) || figure.symbol;
  return (
    <div>
      <dt>
        {bound && <span className="faint">{bound} </span>}
        {label}
      </dt>
      <dd>
        <Fig figure={figure} path={figure.path} />
      </dd>
    </div>
  );
}
