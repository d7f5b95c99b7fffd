/** What is taken away from a load test: its report in both sizes of paper, and every reading. */
export function RunPapers({ run }: { run: string }) {
  const at = `/api/runs/${run}`;
  return (
    <span className="run-papers">
      {(["a4", "letter"] as const).map((paper) => (
        <a
          key={paper}
          className="btn btn-quiet btn-sm"
          href={`${at}/report.pdf?paper=${paper}`}
          target="_blank"
          rel="noreferrer"
        >
          report, {paper === "a4" ? "A4" : paper}
        </a>
      ))}
      <a className="btn btn-quiet btn-sm" href={`${at}/readings.csv`}>
        readings as CSV
      </a>
    </span>
  );
}
