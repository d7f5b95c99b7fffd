/** What each station shows, loaded when it is opened. */
import type { ComponentType } from "react";
import type { Station } from "../api/client";
import { lazily } from "../design/lazily";

const OPENING = (
  <main className="station faint">
    Opening the station… While the server is away it waits for it; what you typed is kept.
  </main>
);

/** All checks of the build, beside the stations. */
export const Verification = lazily(() => import("./AllChecks"), OPENING);

export const VIEWS: Record<Station, ComponentType> = {
  brief: lazily(() => import("../stations/brief/Brief"), OPENING),
  loads: lazily(() => import("../stations/loads/Loads"), OPENING),
  pack: lazily(() => import("../stations/pack/Pack"), OPENING),
  charging: lazily(() => import("../stations/charging/Charging"), OPENING),
  power: lazily(() => import("../stations/power/Power"), OPENING),
  box: lazily(() => import("../stations/box/Box"), OPENING),
  assembly: lazily(() => import("../stations/assembly/Assembly"), OPENING),
  bench: lazily(() => import("../stations/bench/Bench"), OPENING),
  log: lazily(() => import("../stations/log/Log"), OPENING),
};
