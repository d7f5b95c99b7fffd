/**
 * What simulating the days says of the design: it comes after the verdict of what was calculated at once, and is marked as being
 * worked out until then. The former one stands meanwhile.
 */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { createContext, useContext } from "react";
import { api, take, type DesignOut, type Finding, type Forecast, type Station } from "../api/client";

export interface Foreseen {
  forecast: Forecast | null;
  /** Whether it is of the design as it stands: not of a former one, nor still to come. */
  state: "working" | "there" | "failed";
}

const NOTHING_FORESEEN: Foreseen = { forecast: null, state: "working" };

const Context = createContext<Foreseen>(NOTHING_FORESEEN);
export const ForecastProvider = Context.Provider;
export const useForeseen = () => useContext(Context);

/** The forecast of a design, asked for when all that was typed is stored. */
export function useForecast(design: DesignOut, stored: boolean): Foreseen {
  const at = { params: { path: { design_id: design.id } } };
  const { data, error, isPlaceholderData } = useQuery({
    queryKey: ["forecast", design.id, design.revision],
    queryFn: () => take(api.GET("/api/designs/{design_id}/forecast", at)),
    placeholderData: keepPreviousData,
    enabled: stored,
    staleTime: Infinity,
    gcTime: 60_000,
  });
  if (error) return { forecast: null, state: "failed" };
  return { forecast: data ?? null, state: data && !isPlaceholderData ? "there" : "working" };
}

const RANK: Record<Finding["severity"], number> = { stop: 0, mend: 1, note: 2 };
/** What is judged beside the design: of its days, of its record. */
type Beside = Pick<Forecast, "figures" | "findings" | "checks"> & { begun?: Station[] };
const whole = new WeakMap<DesignOut, { of: Beside; design: DesignOut }>();

/** A design with what is judged beside it among its figures, checks and findings, worst first. */
export function joined(design: DesignOut, beside: Beside | null): DesignOut {
  if (!beside) return design;
  const known = whole.get(design);
  if (known?.of === beside) return known.design;
  const { assessment } = design;
  const count = (severity: Finding["severity"]) =>
    assessment.verdict[severity] + beside.findings.filter((f) => f.severity === severity).length;
  const both: DesignOut = {
    ...design,
    assessment: {
      ...assessment,
      begun: [...assessment.begun, ...(beside.begun ?? [])],
      figures: { ...assessment.figures, ...beside.figures },
      checks: [...assessment.checks, ...beside.checks],
      findings: [...assessment.findings, ...beside.findings].sort((a, b) => RANK[a.severity] - RANK[b.severity]),
      verdict: { stop: count("stop"), mend: count("mend"), note: count("note") },
    },
  };
  whole.set(design, { of: beside, design: both });
  return both;
}
