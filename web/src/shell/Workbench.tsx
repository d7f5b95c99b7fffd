import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useState } from "react";
import { useNavigate, useParams } from "react-router";
import { Failure, type DesignOut, type Figure } from "../api/client";
import { askForRemedies, useApplyRemedy } from "../figures/FindingList";
import { ClashNotice, Notice } from "./Notice";
import { CannotOpen } from "./CannotOpen";
import { Rail } from "./Rail";
import { Search } from "./Search";
import { findingKey, MarginContext, useMargin, useSelection } from "../design/selection";
import { isStation, STATIONS, stationOf } from "../design/stations";
import { Verification, VIEWS } from "./stations";
import { ForecastProvider, useForecast } from "../design/forecast";
import { lazily } from "../design/lazily";
import { RecordProvider, useRecordOf } from "../design/record";
import { useUnderWay } from "../design/runs";
import { DesignStore, openDesign, StoreProvider, useDesign, useStore, useStored } from "../design/store";
import { TopBar } from "./TopBar";
import { Trouble } from "./Trouble";
import { KeyHelp } from "./KeyHelp";
import { useShortcuts } from "./keys";

const AWAY_MS = 2000;

/** Fetched only where a load test is under way. */
const UnderWay = lazily(() => import("../stations/bench/live/UnderWay"), null);

/** One build, opened on a station. */
export default function Workbench() {
  const { id = "" } = useParams();
  const queries = useQueryClient();
  const { data, error, refetch } = useQuery({
    queryKey: ["design", id],
    queryFn: () => openDesign(id),
    gcTime: 0,
    staleTime: Infinity,
    // Opened from what the browser kept, it is asked for until the server answers.
    refetchInterval: (query) => (query.state.data?.away ? AWAY_MS : false),
  });
  useEffect(() => () => void queries.invalidateQueries({ queryKey: ["shelf"] }), [queries]);
  if (error) return <CannotOpen id={id} failure={Failure.of(error)} onAgain={() => void refetch()} />;
  if (!data) return <p className="p-4 faint">Opening the build…</p>;
  return <OpenBuild key={data.design.id} design={data.design} away={data.away} />;
}

function OpenBuild({ design, away }: { design: DesignOut; away: Failure | null }) {
  const [store] = useState(() => DesignStore.of(design));
  const [pinned, pin] = useState<Figure | null>(null);
  const [openFinding, open] = useState("");
  const margin = useMemo(() => ({ pinned, pin, openFinding, open }), [pinned, openFinding]);
  const stored = useStored(store);
  const foreseen = useForecast(stored.design, stored.status === "saved");
  const record = useRecordOf(stored.design, stored.status === "saved");
  useEffect(() => store.opened(design, away), [store, design, away]);
  return (
    <StoreProvider value={store}>
      <ForecastProvider value={foreseen}>
        <RecordProvider value={record}>
          <MarginContext.Provider value={margin}>
            <Shell />
          </MarginContext.Provider>
        </RecordProvider>
      </ForecastProvider>
    </StoreProvider>
  );
}

function Shell() {
  const { station = "loads", id } = useParams();
  const store = useStore();
  const { design } = useDesign();
  const navigate = useNavigate();
  const margin = useMargin();
  const [, select] = useSelection();
  const apply = useApplyRemedy();
  const [searching, setSearching] = useState(false);
  const [helping, setHelping] = useState(false);
  const findings = design.assessment.findings;
  useEffect(() => {
    document.title = `${design.document.name} · Keg Cart`;
  }, [design.document.name]);

  const go = useCallback(
    (key: string, at = "") => {
      margin.pin(null);
      void navigate(`/build/${id}/${key}${at ? `?at=${encodeURIComponent(at)}` : ""}`);
    },
    [navigate, id, margin],
  );
  const step = (by: number) => {
    if (!findings.length) return;
    const at = findings.findIndex((f) => findingKey(f) === margin.openFinding);
    const next = findings[(at + by + findings.length) % findings.length]!;
    margin.open(findingKey(next));
    if (next.station !== station) go(next.station, next.place);
    else select(next.place);
  };
  const applyInView = () => {
    const shown = document.querySelector<HTMLElement>(".margin .finding[aria-current] .remedy button");
    const finding = findings.find((f) => findingKey(f) === margin.openFinding) ?? findings[0];
    if (shown) shown.click();
    else if (finding?.remedies?.[0]) apply(finding.remedies[0]);
    else if (finding?.remedies === null)
      void store.prepare(async () => {
        const [first] = await askForRemedies(design.id, finding);
        if (first) apply(first);
      });
  };
  useShortcuts({
    ...Object.fromEntries(STATIONS.map(({ key }, place) => [`${place + 1}`, () => go(key)])),
    "/": () => setSearching(true),
    "?": () => setHelping(true),
    j: () => step(1),
    k: () => step(-1),
    a: applyInView,
    p: () => {
      const row = document.activeElement?.closest("[data-choice]") ?? document.querySelector(".margin [data-choice]");
      row?.querySelector<HTMLElement>(".choice-button")?.click();
    },
    n: () => document.querySelector<HTMLElement>("[data-new]")?.focus(),
    m: () => {
      const [here, there] = [".margin", "main.station"].map((part) => document.querySelector<HTMLElement>(part));
      (here?.contains(document.activeElement) ? there : here)?.focus();
    },
    Escape: () => {
      if (margin.pinned) margin.pin(null);
      else select("");
    },
    "mod+z": () => store.step("undo"),
    "mod+shift+z": () => store.step("redo"),
    "mod+y": () => store.step("redo"),
  });

  const underWay = useUnderWay(design.id);
  const View = isStation(station) ? VIEWS[station] : undefined;
  return (
    <div className="shell">
      <TopBar
        onSearch={() => setSearching(true)}
        onHelp={() => setHelping(true)}
        onVerdict={() => {
          const worst = findings[0];
          if (!worst) return;
          margin.open(findingKey(worst));
          go(worst.station, worst.place);
        }}
      />
      <Trouble />
      {underWay && (
        <UnderWay key={underWay.id} id={underWay.id} bench={`/build/${id}/bench`} here={station === "bench"} />
      )}
      <Rail station={station} onGo={() => margin.pin(null)} />
      {station === "checks" ? (
        <Verification />
      ) : View ? (
        <View key={station} />
      ) : (
        <main className="station">There is no such station.</main>
      )}
      <Search
        show={searching}
        onHide={() => setSearching(false)}
        go={(place, key) => go(key ?? stationOf(place), place)}
      />
      <KeyHelp show={helping} onHide={() => setHelping(false)} />
      <Notice />
      <ClashNotice />
    </div>
  );
}
