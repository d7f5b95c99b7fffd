/** The stations in working order, with the figure that stands on each one's bolt. */
import type { ComponentType, LazyExoticComponent } from "react";
import { lazily } from "./lazily";
import type { DesignOut, Figure, Finding } from "../api/client";

export interface Station {
  key: string;
  name: string;
  vital: (design: DesignOut) => string;
  /** Which findings speak at this station. */
  shows: (finding: Finding) => boolean;
  view: LazyExoticComponent<ComponentType>;
}

/** Findings of other stations that decide whether the rehearsed days hold. */
const REHEARSED = ["loads.energy-short", "loads.reserve-thin", "pack.sag"];

const of = (station: string) => (finding: Finding) => finding.station === station;

const text = (design: DesignOut, path: string) => (design.assessment.figures[path] as Figure | undefined)?.text ?? "";

export const STATIONS: Station[] = [
  {
    key: "brief",
    name: "Brief",
    vital: (d) => `${text(d, "brief/hours_away")} away, ${d.document.brief?.carriage}`,
    shows: of("brief"),
    view: lazily(() => import("../stations/brief/Brief")),
  },
  {
    key: "loads",
    name: "Loads",
    vital: (d) => `${text(d, "loads/energy_day")}/day`,
    shows: of("loads"),
    view: lazily(() => import("../stations/loads/Loads")),
  },
  {
    key: "pack",
    name: "Pack",
    vital: (d) => `${text(d, "pack/nominal")}, ${text(d, "pack/series")}S${text(d, "pack/parallel")}P`,
    shows: of("pack"),
    view: lazily(() => import("../stations/pack/Pack")),
  },
  {
    key: "power",
    name: "Power path",
    vital: (d) => `${text(d, "power/current")} peak`,
    shows: of("power"),
    view: lazily(() => import("../stations/power/Power")),
  },
  {
    key: "bench",
    name: "Bench",
    vital: (d) => `${text(d, "power/energy_share")} used`,
    shows: (f) => REHEARSED.includes(f.id),
    view: lazily(() => import("../stations/bench/Bench")),
  },
];

/** Where a place of the document is worked on. */
export function stationOf(place: string): string {
  const part = place.split("/")[1] ?? "";
  return STATIONS.some((s) => s.key === part) ? part : "brief";
}
