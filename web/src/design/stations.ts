/** The stations in working order: what stands on each one's bolt, and which findings speak there. */
import type { Check, DesignOut, Finding, Station } from "../api/client";

export interface StationFacts {
  key: Station;
  name: string;
  vital: (design: DesignOut) => string;
  /** Which checks and findings are shown at this station. */
  shows: (judged: Finding | Check) => boolean;
}

/** Checks of other stations that decide whether the rehearsed days hold. */
const REHEARSED = ["loads.energy-short", "loads.reserve-thin", "pack.sag", "charging.window"];

const text = (design: DesignOut, path: string) => design.assessment.figures[path]?.text ?? "";
const own = (key: Station) => (judged: Finding | Check) => judged.station === key;

/** One entry for each station the core knows: a station left out is an error of types. */
const FACTS: Record<Station, Omit<StationFacts, "key">> = {
  brief: {
    name: "Brief",
    vital: (d) => `${text(d, "brief/hours_away")} away, ${d.document.brief.carriage}`,
    shows: own("brief"),
  },
  loads: { name: "Loads", vital: (d) => `${text(d, "loads/energy_day")}/day`, shows: own("loads") },
  pack: {
    name: "Pack",
    vital: (d) => `${text(d, "pack/nominal")}, ${text(d, "pack/series")}S${text(d, "pack/parallel")}P`,
    shows: own("pack"),
  },
  charging: {
    name: "Charging",
    vital: (d) => {
      const full = text(d, "forecast/hottest/full_at");
      const into = text(d, "charging/sums/pack");
      return full ? `full at ${full}` : into ? `${into} in` : "not decided";
    },
    shows: own("charging"),
  },
  power: { name: "Power path", vital: (d) => `${text(d, "power/current")} peak`, shows: own("power") },
  box: {
    name: "Box",
    vital: (d) =>
      [text(d, "box/mass") || "not chosen", text(d, "forecast/hottest/hottest_inside")].filter(Boolean).join(", "),
    shows: own("box"),
  },
  assembly: {
    name: "Assembly",
    vital: (d) => {
      const [steps, hours] = [text(d, "assembly/steps"), text(d, "assembly/hours")];
      if (Number(d.assessment.figures["assembly/done"]?.value ?? 0) > 0)
        return `${text(d, "assembly/done")} of ${steps} steps done`;
      return steps ? `${steps} steps, ${hours}` : "steps, lists";
    },
    shows: own("assembly"),
  },
  bench: {
    name: "Bench",
    vital: (d) => `${text(d, "power/energy_share")} used`,
    shows: (f) => f.station === "bench" || REHEARSED.includes(f.id),
  },
  log: {
    name: "Log",
    vital: (d) => {
      const uses = Number(d.assessment.figures["log/uses"]?.value ?? 0);
      const left = text(d, "log/share") || text(d, "log/left");
      return uses
        ? `${uses === 1 ? "1 use" : `${text(d, "log/uses")} uses`}${left ? `, ${left} left` : ""}`
        : "not in service";
    },
    shows: own("log"),
  },
};

export const isStation = (key: string): key is Station => key in FACTS;

export const STATIONS: StationFacts[] = Object.keys(FACTS)
  .filter(isStation)
  .map((key) => ({ key, ...FACTS[key] }));

/** Where a place of the document is worked on. */
export function stationOf(place: string): Station {
  const part = place.split("/")[1] ?? "";
  return isStation(part) ? part : "brief";
}
