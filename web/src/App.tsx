// Every view but the shelf arrives when it is first opened.
import { lazy, Suspense } from "react";
import { Route, Routes } from "react-router";
import { ShelfView } from "./views/shelf/ShelfView";
import { Lost } from "./parts/Lost";
import { useTheme } from "./parts/theme";

const BuildView = lazy(() => import("./views/build/BuildView").then((made) => ({ default: made.BuildView })));
const ChecksView = lazy(() => import("./views/checks/ChecksView").then((made) => ({ default: made.ChecksView })));
const CircuitsView = lazy(() => import("./views/circuits/CircuitsView").then((made) => ({ default: made.CircuitsView })));
const MapTab = lazy(() => import("./views/circuits/MapTab").then((made) => ({ default: made.MapTab })));
const PartsTab = lazy(() => import("./views/circuits/PartsTab").then((made) => ({ default: made.PartsTab })));
const RunsTab = lazy(() => import("./views/circuits/RunsTab").then((made) => ({ default: made.RunsTab })));
const ShortsTab = lazy(() => import("./views/circuits/ShortsTab").then((made) => ({ default: made.ShortsTab })));
const StatesTab = lazy(() => import("./views/circuits/StatesTab").then((made) => ({ default: made.StatesTab })));
const LayoutView = lazy(() => import("./views/layout/LayoutView").then((made) => ({ default: made.LayoutView })));
const LibraryView = lazy(() => import("./views/library/LibraryView").then((made) => ({ default: made.LibraryView })));
const LoadsView = lazy(() => import("./views/loads/LoadsView").then((made) => ({ default: made.LoadsView })));
const LogView = lazy(() => import("./views/log/LogView").then((made) => ({ default: made.LogView })));
const PlanFrame = lazy(() => import("./views/plan/PlanFrame").then((made) => ({ default: made.PlanFrame })));
const DaysTab = lazy(() => import("./views/power/DaysTab").then((made) => ({ default: made.DaysTab })));
const FitTab = lazy(() => import("./views/power/FitTab").then((made) => ({ default: made.FitTab })));
const OptionsTab = lazy(() => import("./views/power/OptionsTab").then((made) => ({ default: made.OptionsTab })));
const PowerView = lazy(() => import("./views/power/PowerView").then((made) => ({ default: made.PowerView })));
const PricesTab = lazy(() => import("./views/power/PricesTab").then((made) => ({ default: made.PricesTab })));
const ProposeTab = lazy(() => import("./views/power/ProposeTab").then((made) => ({ default: made.ProposeTab })));
const SourcesTab = lazy(() => import("./views/power/SourcesTab").then((made) => ({ default: made.SourcesTab })));
const VehicleView = lazy(() => import("./views/vehicle/VehicleView").then((made) => ({ default: made.VehicleView })));
const KeepingView = lazy(() => import("./views/keeping/KeepingView").then((made) => ({ default: made.KeepingView })));

export function App() {
  const [theme, flip] = useTheme();
  return (
    <Suspense fallback={<p className="p-4 text-soft">Opening</p>}>
    <Routes>
      <Route path="/" element={<ShelfView theme={theme} onTheme={flip} />} />
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
        <Route path="build" element={<BuildView />} />
        <Route path="log" element={<LogView />} />
        <Route path="*" element={<Lost />} />
      </Route>
      <Route path="*" element={<Lost />} />
    </Routes>
    </Suspense>
  );
}