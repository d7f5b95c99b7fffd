import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

type Schemas = components["schemas"];

export type Load = Schemas["Load"];
export type Node = NonNullable<Schemas["PowerPath"]["network"]>[string];
/** A document as the server answers it: every part is there. */
export interface DesignDocument {
  name: string;
  notes: string;
  brief: Schemas["Brief"];
  loads: { items: Record<string, Load> };
  pack: Schemas["CellPack"] | Schemas["BatteryPack"];
  power: { network: Record<string, Node>; shunt?: Schemas["Shunt"] | null };
  bench: Schemas["Bench"];
}
export type DesignOut = Omit<Schemas["DesignOut"], "document"> & { document: DesignDocument };
export type ShelfItem = Schemas["ShelfItem"];
export type Finding = Schemas["FindingOut"];
export type Remedy = Schemas["RemedyOut"];
export type Effect = Schemas["EffectOut"];
export type Diagram = Schemas["DiagramOut"];
export type Box = Schemas["BoxOut"];
export type Simulation = Schemas["SimulationOut"];
export type RehearsalStep = Schemas["StepOut"];
export type Reference = Schemas["ReferenceOut"];
export type ErrorOut = Schemas["ErrorOut"];
export type Severity = Finding["severity"];
/** What is not said of a figure is left out of the answer. */
export type Figure = Partial<Omit<Schemas["FigureOut"], "inputs">> & { inputs?: Record<string, Figure> };

export interface Operation {
  op: "add" | "remove" | "replace";
  path: string;
  value?: unknown;
}

export const api = createClient<paths>({ baseUrl: "/" });

/** The answer's data, or an error that carries what the server said. */
export async function take<T>(call: Promise<{ data?: T; error?: unknown }>): Promise<T> {
  const { data, error } = await call;
  if (data === undefined) throw new Error((error as ErrorOut | undefined)?.message ?? "The server did not answer.");
  return data;
}
