import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

type Schemas = components["schemas"];

export type Load = Schemas["Load"];
/** A load to be added: what is left out is as the core has it. */
export type NewLoad = Partial<Load> & Pick<Load, "name">;
export type CellPack = Schemas["CellPack"];
export type Bank = Schemas["Bank"];
export type Pack = CellPack | Schemas["BatteryPack"] | Bank;
export type Appliance = Schemas["ApplianceOut"];
export type PackPart = Schemas["PackPartOut"];
export type RackCell = Schemas["CellOut"];
export type Rack = Schemas["RackOut"];
export type CellTable = Schemas["TableOut"];
export type Sorting = Schemas["SortOut"];
export type LoadTable = Schemas["LoadTableOut"];
export type TableProblem = Schemas["TableProblemOut"];
export type Node = NonNullable<Schemas["PowerPath"]["network"]>[string];
/** A document as the server answers it: every part is there. */
export interface DesignDocument {
  name: string;
  notes: string;
  brief: Schemas["Brief"];
  loads: { items: Record<string, Load>; days: number; weekdays: boolean };
  pack: Pack;
  power: {
    network: Record<string, Node>;
    shunt?: Schemas["Shunt"] | null;
    banks: Record<string, Schemas["SecondBank"]>;
    chassis_bond: boolean;
  };
  bench: Schemas["Bench"];
}
export type DesignOut = Omit<Schemas["DesignOut"], "document"> & { document: DesignDocument };
export type ChangedOut = Schemas["DesignOut"] | Schemas["ChangesOut"];
export type Chemistry = Pack["chemistry"];
export type ShelfItem = Schemas["ShelfItem"];
export type Finding = Schemas["FindingOut"];
export type Remedy = Schemas["RemedyOut"];
export type Drawing = Schemas["DrawingOut"];
export type DrawingItem = Drawing["items"][number];
export type DrawingArea = Schemas["AreaOut"];
export type PartKind = Schemas["PartKindOut"];
export type PartField = Schemas["PartFieldOut"];
export type Standby = Schemas["StandbyOut"];
export type Simulation = Schemas["SimulationOut"];
export type RehearsalStep = Schemas["StepOut"];
export type ErrorOut = Schemas["ErrorOut"];
export type Severity = Finding["severity"];
export type Figure = Schemas["FigureOut"];
export type Station = Finding["station"];

export type Operation = Schemas["Operation"];

export const api = createClient<paths>({ baseUrl: "/" });

/** A design as answered: the file format lets parts of the document be left out, an answer never does. */
export const asDesign = (answer: { document: object }): DesignOut => answer as DesignOut;

/** A server that is away answers like one that is busy, so that each caller has one way to be told. */
api.use({
  onError: () =>
    Response.json({ message: "The server does not answer. Try again in a moment.", problems: [] }, { status: 503 }),
});

/** The answer's data, or an error that carries what the server said. */
export async function take<T>(call: Promise<{ data?: T; error?: unknown }>): Promise<T> {
  const { data, error } = await call;
  if (data === undefined)
    throw new Error((error as ErrorOut | undefined)?.message ?? "The server does not answer. Try again in a moment.");
  return data;
}
