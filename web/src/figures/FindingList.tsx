import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import Button from "react-bootstrap/Button";
import { api, take, type EffectOut, type Finding, type Remedy } from "../api/client";
import { findingKey, useMargin, useSelection } from "../design/selection";
import { useDesign, useStore } from "../design/store";
import { Sentence } from "./Figure";
import { Mark } from "./Mark";

/** What a change would do elsewhere, asked of the server before it is applied. */
export function EffectLine({ patch, ends = 0 }: { patch: Remedy["patch"]; ends?: number }) {
  const { design } = useDesign();
  const { data, error } = useQuery({
    queryKey: ["preview", design.id, design.revision, patch],
    queryFn: () =>
      take(
        api.POST("/api/designs/{design_id}/preview", {
          params: { path: { design_id: design.id } },
          body: { patch },
        }),
      ),
    staleTime: Infinity,
  });
  if (error) return <div className="effect">{error.message}</div>;
  if (!data) return <div className="effect">working out its effect…</div>;
  return <Effect effect={data} ends={ends} />;
}

/** `ends`: findings of the forecast that it ends, which was tried out with it. */
function Effect({ effect, ends = 0 }: { effect: EffectOut; ends?: number }) {
  const mended = effect.gone.length + ends;
  return (
    <div className="effect">
      {mended > 0 ? `mends ${mended} finding${mended > 1 ? "s" : ""}` : "mends nothing by itself"}
      {effect.new.length > 0 ? (
        <span className={effect.new_stops ? "worse" : ""}>
          {", but brings: "}
          {effect.new[0]}
          {effect.new.length > 1 && ` And ${effect.new.length - 1} more.`}
        </span>
      ) : (
        ", no new finding"
      )}
      {effect.changes.map((c) => (
        <div key={c.label}>
          {c.label} {c.before} → {c.after}
        </div>
      ))}
    </div>
  );
}

/** Asks for what ends a finding, each tried out on the whole design. */
export function askForRemedies(designId: string, finding: Finding) {
  return take(
    api.GET("/api/designs/{design_id}/remedies", {
      params: { path: { design_id: designId }, query: { finding: finding.id, place: finding.place } },
    }),
  );
}

export function useApplyRemedy() {
  const store = useStore();
  return (remedy: Remedy) => {
    store.change(remedy.patch, remedy.label);
    store.say(`Done: ${remedy.label}.`, true);
  };
}

/** What ends a finding, with its effect: that of a forecast was tried out with it, the others are as it is opened. */
function Remedies({ finding }: { finding: Finding }) {
  const { design } = useDesign();
  const { data, error } = useQuery({
    queryKey: ["remedies", design.id, design.revision, finding.id, finding.place],
    queryFn: () => askForRemedies(design.id, finding),
    enabled: finding.remedies === null,
    staleTime: Infinity,
  });
  if (error) return <div className="effect">{error.message}</div>;
  if (finding.remedies === null && !data) return <div className="effect">trying out what mends it…</div>;
  if (data?.length === 0)
    return (
      <div className="effect">
        No single change ends it without bringing a stop elsewhere: see what it follows from.
      </div>
    );
  return (
    <>
      {data?.map((offer) => (
        <Offered key={offer.label} remedy={offer}>
          <Effect effect={offer} />
        </Offered>
      ))}
      {finding.remedies?.map((remedy) => (
        <Offered key={remedy.label} remedy={remedy}>
          <EffectLine patch={remedy.patch} ends={1} />
        </Offered>
      ))}
    </>
  );
}

function Offered({ remedy, children }: { remedy: Remedy; children: ReactNode }) {
  const apply = useApplyRemedy();
  return (
    <div className="remedy">
      <Button size="sm" onClick={() => apply(remedy)}>
        {remedy.label}
      </Button>
      {children}
    </div>
  );
}

function FindingCard({ finding, open }: { finding: Finding; open: boolean }) {
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
          <Remedies finding={finding} />
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
