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
/** What is decided of a charging source, of whichever kind. */
type Source = NonNullable<Schemas["Charging"]["sources"]>[string];
/** Where something is: standing inside the box, or in a face of it. */
export type Place = NonNullable<Schemas["Enclosure"]["places"]>[string];
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
    negative?: Schemas["Run"] | null;
    banks: Record<string, Schemas["SecondBank"]>;
    chassis_bond: boolean;
  };
  charging: {
    sources: Record<string, Source>;
    sun: Schemas["Sunshine"];
    pad: Schemas["Pad"];
    goal: NonNullable<Schemas["Charging"]["goal"]>;
  };
  box: {
    case?: Schemas["Case"] | null;
    bodies: Record<string, Schemas["Body"]>;
    places: Record<string, Place>;
    fixtures: Record<string, Schemas["Fixture"]>;
    fittings: Record<string, Schemas["Fitting"]>;
  };
  assembly: Required<Schemas["Assembly"]> & { alternatives: Schemas["Alternatives"] };
  bench: Schemas["Bench"];
}
export type DesignOut = Omit<Schemas["DesignOut"], "document"> & { document: DesignDocument };
export type ChangedOut = Schemas["DesignOut"] | Schemas["ChangesOut"];
export type Chemistry = Pack["chemistry"];
export type ShelfItem = Schemas["ShelfItem"];
export type Finding = Schemas["FindingOut"];
export type Remedy = Schemas["RemedyOut"];
export type EffectOut = Schemas["EffectOut"];
export type Check = Schemas["CheckOut"];
export type Drawing = Schemas["DrawingOut"];
export type DrawingItem = Drawing["items"][number];
export type DrawingArea = Schemas["AreaOut"];
export type PartKind = Schemas["PartKindOut"];
export type SourceKind = Schemas["SourceKindOut"];
export type PartField = Schemas["PartFieldOut"];
export type Simulation = Schemas["SimulationOut"];
export type Forecast = Schemas["ForecastOut"];
export type TestPlan = Schemas["TestPlanOut"];
export type DrillDone = Schemas["DrillOut"];
export type Learnt = Schemas["ReadingsOut"];
export type FaultDial = Schemas["DialOut"];
export type FoundFigure = Schemas["FoundFigureIn"];
export type PutInChanges = Schemas["PutInOut"];
export type TestRun = Schemas["RunOut"];
export type TestRunHead = Schemas["RunHeadOut"];
export type Instruments = Schemas["InstrumentsOut"];
export type FoundInstrument = Schemas["FoundInstrumentOut"];
export type TriedAsk = Schemas["TriedAskOut"];
export type RunCommand = Schemas["CommandIn"];
export type TestStep = Schemas["TestStepOut"];
export type BoxDrawn = Schemas["BoxOut"];
export type BoxView = Schemas["ViewOut"];
export type BoxHandle = Schemas["HandleOut"];
export type BoxThing = Schemas["ThingOut"];
export type Laying = Schemas["LayingOut"];
export type Build = Schemas["AssemblyOut"];
export type BuildRecord = Schemas["RecordOut"];
export type StepStanding = Schemas["StandingOut"];
export type BuildLife = Schemas["LifeOut"];
export type BuildWear = Schemas["WearOut"];
export type Moment = Schemas["MomentOut"];
export type BuildLine = Schemas["LineOut"];
export type BuildStep = Schemas["BuildStepOut"];
export type BuildPiece = Schemas["PieceOut"];
export type BuildMeasure = Schemas["MeasureOut"];
export type Hollow = Schemas["HollowOut"];
export type ErrorOut = Schemas["ErrorOut"];
export type Severity = Finding["severity"];
export type Figure = Schemas["FigureOut"];
export type Station = Finding["station"];

export type Operation = Schemas["Operation"];

export const api = createClient<paths>({ baseUrl: "/" });

/** A design as answered: the file format lets parts of the document be left out, an answer never does. */
export const asDesign = (answer: { document: object }): DesignOut => answer as DesignOut;

type ErrorKind = ErrorOut["kind"] | "away";

/** Why there is no answer: the server refuses, cannot write, has broken, is away; each with what stands and what to do. */
export class Failure extends Error {
  constructor(
    readonly kind: ErrorKind,
    message: string,
    readonly problems: ErrorOut["problems"] = [],
  ) {
    super(message);
  }

  /** Whether the same may well be taken later, with nothing done about it here. */
  get passes(): boolean {
    return this.kind === "away" || this.kind === "busy" || this.kind === "cannot-write";
  }

  /** Why, in a sentence: the first thing that is wrong, where one is named. */
  get reason(): string {
    return this.problems?.[0]?.message ?? this.message;
  }

  static of(error: unknown): Failure {
    if (error instanceof Failure) return error;
    if (typeof error === "object" && error !== null && "kind" in error && "message" in error) {
      const said = error as ErrorOut;
      return new Failure(said.kind, said.message, said.problems ?? []);
    }
    return new Failure("away", "The server does not answer: start it again, or wait a moment. What is stored stays.");
  }
}

/** A server that is away is told like one that answers with an error, so that each caller has one way to be told. */
api.use({ onError: () => Response.json(null, { status: 503 }) });

/** The answer's data. Errors: Failure. */
export async function take<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  const { data, error, response } = await call;
  if (!response.ok || data === undefined) throw Failure.of(error);
  return data;
}

/** Something that has no data to answer. Errors: Failure. */
export async function done(call: Promise<{ error?: unknown; response: Response }>): Promise<void> {
  const { error, response } = await call;
  if (!response.ok) throw Failure.of(error);
}
