import { useQuery } from "@tanstack/react-query";
import Button from "react-bootstrap/Button";
import { api, take, type Finding, type Remedy } from "../api/client";
import { findingKey, useMargin, useSelection } from "../design/selection";
import { useDesign, useStore } from "../design/store";
import { Sentence } from "./Figure";
import { Mark } from "./Mark";

/** What a remedy would change elsewhere, asked of the server before it is applied. */
export function EffectLine({ remedy, complete = true }: { remedy: Remedy; complete?: boolean }) {
  const { design } = useDesign();
  const { data, error } = useQuery({
    queryKey: ["preview", design.id, design.revision, remedy.patch, complete],
    queryFn: () =>
      take(
        api.POST("/api/designs/{design_id}/preview", {
          params: { path: { design_id: design.id } },
          body: { patch: remedy.patch, complete },
        }),
      ),
    staleTime: Infinity,
  });
  if (error) return <div className="effect">{error.message}</div>;
  if (!data) return <div className="effect">working out its effect…</div>;
  const mended = data.gone.length;
  return (
    <div className="effect">
      {mended > 0 ? `mends ${mended} finding${mended > 1 ? "s" : ""}` : "mends nothing by itself"}
      {data.new.length > 0 ? (
        <span className={data.new_stops ? "worse" : ""}>
          {", but brings: "}
          {data.new[0]}
          {data.new.length > 1 && ` and ${data.new.length - 1} more`}
        </span>
      ) : (
        ", no new finding"
      )}
      {data.patch.length > remedy.patch.length && <div>with what else it takes</div>}
      {data.changes.map((c) => (
        <div key={c.label}>
          {c.label} {c.before} → {c.after}
        </div>
      ))}
    </div>
  );
}

export function useApplyRemedy() {
  const store = useStore();
  return (remedy: Remedy) =>
    store.prepare(async () => {
      // What else it takes goes with it; without an answer the remedy goes alone, as a change that waits to be sent.
      const { id } = store.get().design;
      const { data } = await api.POST("/api/designs/{design_id}/preview", {
        params: { path: { design_id: id } },
        body: { patch: remedy.patch, complete: true },
      });
      store.change(data?.patch ?? remedy.patch, remedy.label);
      store.say(`Done: ${remedy.label}.`, true);
    });
}

function FindingCard({ finding, open }: { finding: Finding; open: boolean }) {
  const apply = useApplyRemedy();
  const margin = useMargin();
  const [, select] = useSelection();
  const key = findingKey(finding);
  return (
    <article className={`finding ${finding.severity}`} aria-current={open || undefined} data-finding={finding.id}>
      <div className="finding-head">
        <Mark kind={finding.severity} />
        <div className="sentence">
          <Sentence text={finding.sentence} figures={finding.figures} />
        </div>
        <button
          type="button"
          className="open-finding"
          aria-expanded={open}
          aria-label={open ? "fold this finding" : "why, and what would mend it"}
          onClick={() => {
            margin.open(open ? "" : key);
            if (!open) select(finding.place);
          }}
        >
          {open ? "▴" : "▾"}
        </button>
      </div>
      {open && (
        <>
          <p>{finding.why}</p>
          {finding.remedies.map((remedy) => (
            <div className="remedy" key={remedy.label}>
              <Button size="sm" onClick={() => void apply(remedy)}>
                {remedy.label}
              </Button>
              <EffectLine remedy={remedy} />
            </div>
          ))}
        </>
      )}
    </article>
  );
}

/** Findings, worst first; one stands open with its reason and remedies. */
export function FindingList({ findings }: { findings: Finding[] }) {
  const { openFinding } = useMargin();
  const chosen = findings.some((f) => findingKey(f) === openFinding)
    ? openFinding
    : findings[0] && findingKey(findings[0]);
  return (
    <div>
      {findings.map((finding) => (
        <FindingCard key={findingKey(finding)} finding={finding} open={findingKey(finding) === chosen} />
      ))}
    </div>
  );
}
