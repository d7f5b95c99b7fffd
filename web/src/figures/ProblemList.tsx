import type { TableProblem } from "../api/client";

const SHOWN = 6;

/** What stands in the way of reading a table, by line and column. */
export function ProblemList({ problems }: { problems: TableProblem[] }) {
  if (!problems.length) return null;
  return (
    <div className="problem-list" role="alert">
      <strong>
        {problems.length === 1 ? "One thing stands" : `${problems.length} things stand`} in the way; nothing is taken in
        until it reads well.
      </strong>
      <ul>
        {problems.slice(0, SHOWN).map((p, i) => (
          <li key={i}>
            line {p.line}, column {p.column}: {p.text}
          </li>
        ))}
        {problems.length > SHOWN && <li>and {problems.length - SHOWN} more</li>}
      </ul>
    </div>
  );
}
