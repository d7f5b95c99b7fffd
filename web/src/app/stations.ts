/** The stations in working order, with the figure that stands on each one's bolt. */
import { lazy, type ComponentType, type LazyExoticComponent } from "react";
import type { DesignOut, Figure } from "../api/client";

export interface Station {
  key: string;
  name: string;
  vital: (design: DesignOut) => string;
  view: LazyExoticComponent<ComponentType>;
}

const text = (design: DesignOut, path: string) => (design.assessment.figures[path] as Figure | undefined)?.text ?? "";

export const STATIONS: Station[] = [
  {
    key: "brief",
    name: "Brief",
    vital: (d) => `${text(d, "brief/hours_away")} away, ${d.document.brief?.carriage}`,
    view: lazy(() => import("../stations/brief/Brief")),
  },
  {
    key: "loads",
    name: "Loads",
    vital: (d) => `${text(d, "loads/energy_day")}/day`,
    view: lazy(() => import("../stations/loads/Loads")),
  },
  {
    key: "pack",
    name: "Pack",
    vital: (d) => `${text(d, "pack/nominal")}, ${text(d, "pack/series")}S${text(d, "pack/parallel")}P`,
    view: lazy(() => import("../stations/pack/Pack")),
  },
  {
    key: "power",
    name: "Power path",
    vital: (d) => `${text(d, "power/current")} peak`,
    view: lazy(() => import("../stations/power/Power")),
  },
  {
    key: "bench",
    name: "Bench",
    vital: (d) => `${text(d, "power/energy_share")} used`,
    view: lazy(() => import("../stations/bench/Bench")),
  },
];

/** Where a place of the document is worked on. */
export function stationOf(place: string): string {
  const part = place.split("/")[1] ?? "";
  return STATIONS.some((s) => s.key === part) ? part : "brief";
}
