/** What each station shows, loaded when it is opened. */
import type { ComponentType, LazyExoticComponent } from "react";
import type { Station } from "../api/client";
import { lazily } from "../design/lazily";

export const VIEWS: Record<Station, LazyExoticComponent<ComponentType>> = {
  brief: lazily(() => import("../stations/brief/Brief")),
  loads: lazily(() => import("../stations/loads/Loads")),
  pack: lazily(() => import("../stations/pack/Pack")),
  power: lazily(() => import("../stations/power/Power")),
  bench: lazily(() => import("../stations/bench/Bench")),
};
