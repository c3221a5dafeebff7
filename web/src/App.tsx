// Every view but the shelf arrives when it is first opened.
import { lazy, Suspense, useEffect, type ComponentType } from "react";
import { Route, Routes } from "react-router";
import { ShelfView } from "./views/shelf/ShelfView";
import { Lost } from "./parts/Lost";
import { useTheme } from "./parts/theme";
import { Upgraded } from "./parts/Upgraded";

// Views that are not open yet. They are fetched once the page has nothing else to do, so that everything opens also where
// the network goes away.
const waiting: (() => Promise<unknown>)[] = [];

function view<Props extends object>(load: () => Promise<ComponentType<Props>>) {
  waiting.push(load);
  return lazy(() => load().then((made) => ({ default: made })));
}

const BenchView = view(() => import("./views/bench/BenchView").then((made) => made.BenchView));
const BuildView = view(() => import("./views/build/BuildView").then((made) => made.BuildView));
const CutTab = view(() => import("./views/build/CutTab").then((made) => made.CutTab));
const OrderTab = view(() => import("./views/build/OrderTab").then((made) => made.OrderTab));
const RecordTab = view(() => import("./views/build/RecordTab").then((made) => made.RecordTab));
const PapersTab = view(() => import("./views/build/PapersTab").then((made) => made.PapersTab));
const BuyTab = view(() => import("./views/build/BuyTab").then((made) => made.BuyTab));
const WiringTab = view(() => import("./views/build/WiringTab").then((made) => made.WiringTab));
const QuoteTab = view(() => import("./views/build/QuoteTab").then((made) => made.QuoteTab));
const ChecksView = view(() => import("./views/checks/ChecksView").then((made) => made.ChecksView));
const CircuitsView = view(() => import("./views/circuits/CircuitsView").then((made) => made.CircuitsView));
const MapTab = view(() => import("./views/circuits/MapTab").then((made) => made.MapTab));
const PartsTab = view(() => import("./views/circuits/PartsTab").then((made) => made.PartsTab));
const RunsTab = view(() => import("./views/circuits/RunsTab").then((made) => made.RunsTab));
const SchoolView = view(() => import("./views/school/SchoolView").then((made) => made.SchoolView));
const DrillView = view(() => import("./views/school/DrillView").then((made) => made.DrillView));
const CaseView = view(() => import("./views/school/CaseView").then((made) => made.CaseView));
const ShortsTab = view(() => import("./views/circuits/ShortsTab").then((made) => made.ShortsTab));
const StatesTab = view(() => import("./views/circuits/StatesTab").then((made) => made.StatesTab));
const LayoutView = view(() => import("./views/layout/LayoutView").then((made) => made.LayoutView));
const LibraryView = view(() => import("./views/library/LibraryView").then((made) => made.LibraryView));
const LoadsView = view(() => import("./views/loads/LoadsView").then((made) => made.LoadsView));
const LogView = view(() => import("./views/log/LogView").then((made) => made.LogView));
const PlanFrame = view(() => import("./views/plan/PlanFrame").then((made) => made.PlanFrame));
const DaysTab = view(() => import("./views/power/DaysTab").then((made) => made.DaysTab));
const FitTab = view(() => import("./views/power/FitTab").then((made) => made.FitTab));
const OptionsTab = view(() => import("./views/power/OptionsTab").then((made) => made.OptionsTab));
const PowerView = view(() => import("./views/power/PowerView").then((made) => made.PowerView));
const PricesTab = view(() => import("./views/power/PricesTab").then((made) => made.PricesTab));
const ProposeTab = view(() => import("./views/power/ProposeTab").then((made) => made.ProposeTab));
const SourcesTab = view(() => import("./views/power/SourcesTab").then((made) => made.SourcesTab));
const ProveView = view(() => import("./views/prove/ProveView").then((made) => made.ProveView));
const ProvingTab = view(() => import("./views/prove/ProvingTab").then((made) => made.ProvingTab));
const FaultTab = view(() => import("./views/prove/FaultTab").then((made) => made.FaultTab));
const LogTab = view(() => import("./views/log/LogTab").then((made) => made.LogTab));
const RevisionsTab = view(() => import("./views/log/RevisionsTab").then((made) => made.RevisionsTab));
const WordsView = view(() => import("./views/words/WordsView").then((made) => made.WordsView));
const VehicleView = view(() => import("./views/vehicle/VehicleView").then((made) => made.VehicleView));
const KeepingView = view(() => import("./views/keeping/KeepingView").then((made) => made.KeepingView));

const IDLE_MS = 4000;

function useAllViews() {
  useEffect(() => {
    const later = setTimeout(() => void waiting.reduce((before, load) => before.then(load, load), Promise.resolve<unknown>(null)).catch(() => undefined), IDLE_MS);
    return () => clearTimeout(later);
  }, []);
}

export function App() {
  const [theme, flip] = useTheme();
  useAllViews();
  return (
    <Upgraded>
    <Suspense fallback={<p className="p-4 text-soft">Opening</p>}>
    <Routes>
      <Route path="/" element={<ShelfView theme={theme} onTheme={flip} />} />
      <Route path="/bench" element={<BenchView theme={theme} onTheme={flip} />} />
      <Route path="/school" element={<SchoolView theme={theme} onTheme={flip} />} />
      <Route path="/school/drill/:skill" element={<DrillView theme={theme} onTheme={flip} />} />
      <Route path="/school/case/:caseId" element={<CaseView theme={theme} onTheme={flip} />} />
      <Route path="/words" element={<WordsView theme={theme} onTheme={flip} />} />
      <Route path="/keeping" element={<KeepingView theme={theme} onTheme={flip} />} />
      <Route path="/parts" element={<LibraryView theme={theme} onTheme={flip} />} />
      <Route path="/plan/:planId" element={<PlanFrame theme={theme} onTheme={flip} />}>
        <Route index element={<LoadsView />} />
        <Route path="vehicle" element={<VehicleView />} />
        <Route path="loads" element={<LoadsView />} />
        <Route path="circuits" element={<CircuitsView />}>
          <Route index element={<RunsTab />} />
          <Route path="map" element={<MapTab />} />
          <Route path="states" element={<StatesTab />} />
          <Route path="shorts" element={<ShortsTab />} />
          <Route path="parts" element={<PartsTab />} />
        </Route>
        <Route path="power" element={<PowerView />}>
          <Route index element={<SourcesTab />} />
          <Route path="fit" element={<FitTab />} />
          <Route path="days" element={<DaysTab />} />
          <Route path="propose" element={<ProposeTab />} />
          <Route path="options" element={<OptionsTab />} />
          <Route path="prices" element={<PricesTab />} />
        </Route>
        <Route path="layout" element={<LayoutView />} />
        <Route path="checks" element={<ChecksView />} />
        <Route path="build" element={<BuildView />}>
          <Route index element={<PapersTab />} />
          <Route path="cut" element={<CutTab />} />
          <Route path="wire" element={<BuyTab />} />
          <Route path="buy" element={<BuyTab />} />
          <Route path="quote" element={<QuoteTab />} />
          <Route path="wiring" element={<WiringTab />} />
          <Route path="order" element={<OrderTab />} />
          <Route path="record" element={<RecordTab />} />
        </Route>
        <Route path="prove" element={<ProveView />}>
          <Route index element={<ProvingTab />} />
          <Route path="fault" element={<FaultTab />} />
        </Route>
        <Route path="log" element={<LogView />}>
          <Route index element={<LogTab />} />
          <Route path="revisions" element={<RevisionsTab />} />
        </Route>
        <Route path="*" element={<Lost />} />
      </Route>
      <Route path="*" element={<Lost />} />
    </Routes>
    </Suspense>
    </Upgraded>
  );
}
