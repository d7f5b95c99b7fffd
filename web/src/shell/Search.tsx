import { useState } from "react";
import Modal from "react-bootstrap/Modal";
import { Mark } from "../figures/Mark";
import { STATIONS } from "../design/stations";
import { useDesign } from "../design/store";

const MOST = 12;

/** Search over stations, loads, sources, parts and findings. */
export function Search({
  show,
  onHide,
  go,
}: {
  show: boolean;
  onHide: () => void;
  go: (place: string, station?: string) => void;
}) {
  const { design } = useDesign();
  const [typed, setTyped] = useState("");
  const wanted = typed.trim().toLowerCase();
  const hits = [
    ...STATIONS.map((s) => ({ text: s.name, what: "station", place: "", station: s.key, severity: undefined })),
    ...Object.entries(design.document.loads.items).map(([key, load]) => ({
      text: load.name,
      what: "load",
      place: `/loads/items/${key}`,
      station: "loads",
      severity: undefined,
    })),
    ...Object.entries(design.document.charging.sources).map(([key, source]) => ({
      text: source.name,
      what: "source",
      place: `/charging/sources/${key}`,
      station: "charging",
      severity: undefined,
    })),
    ...Object.entries(design.document.power.network).map(([key, node]) => ({
      text: node.name,
      what: node.part.replace("_", " "),
      place: `/power/network/${key}`,
      station: "power",
      severity: undefined,
    })),
    ...Object.entries({ ...design.document.box.fittings, ...design.document.box.fixtures }).map(([key, { name }]) => ({
      text: name,
      what: "in the box",
      place: `/box/${key in design.document.box.fittings ? "fittings" : "fixtures"}/${key}`,
      station: "box",
      severity: undefined,
    })),
    ...design.assessment.findings.map((f) => ({
      text: f.text,
      what: f.id,
      place: f.place,
      station: f.station,
      severity: f.severity,
    })),
  ].filter((hit) => wanted && (hit.text.toLowerCase().includes(wanted) || hit.what.includes(wanted)));
  const choose = (hit: (typeof hits)[number]) => {
    setTyped("");
    onHide();
    go(hit.place, hit.station);
  };
  return (
    <Modal show={show} onHide={onHide} aria-label="Search">
      <Modal.Body>
        <form
          role="search"
          onSubmit={(event) => {
            event.preventDefault();
            if (hits[0]) choose(hits[0]);
          }}
        >
          <input
            className="form-control mb-2"
            autoFocus
            aria-label="Search parts, loads and findings"
            placeholder="a part, a load, a finding"
            value={typed}
            onChange={(event) => setTyped(event.target.value)}
          />
        </form>
        {hits.slice(0, MOST).map((hit) => (
          <button
            type="button"
            className="search-hit"
            key={`${hit.what} ${hit.place} ${hit.text}`}
            onClick={() => choose(hit)}
          >
            {hit.severity && <Mark kind={hit.severity} />}
            <span className="flex-grow-1">{hit.text}</span>
            <span className="faint">{hit.what}</span>
          </button>
        ))}
        {hits.length === 0 && (
          <p className="faint mb-0">
            {wanted ? "Nothing by that name. " : ""}Type a few letters of a part, a load, a station, or what a finding
            says.
          </p>
        )}
      </Modal.Body>
    </Modal>
  );
}
