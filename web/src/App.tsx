import { Route, Routes } from "react-router";
import { BuildView } from "./views/build/BuildView";
import { ChecksView } from "./views/checks/ChecksView";
import { CircuitsView } from "./views/circuits/CircuitsView";
import { MapTab } from "./views/circuits/MapTab";
import { PartsTab } from "./views/circuits/PartsTab";
import { RunsTab } from "./views/circuits/RunsTab";
import { ShortsTab } from "./views/circuits/ShortsTab";
import { StatesTab } from "./views/circuits/StatesTab";
import { LibraryView } from "./views/library/LibraryView";
import { LoadsView } from "./views/loads/LoadsView";
import { LogView } from "./views/log/LogView";
import { PlanFrame } from "./views/plan/PlanFrame";
import { DaysTab } from "./views/power/DaysTab";
import { FitTab } from "./views/power/FitTab";
import { OptionsTab } from "./views/power/OptionsTab";
import { PowerView } from "./views/power/PowerView";
import { PricesTab } from "./views/power/PricesTab";
import { ProposeTab } from "./views/power/ProposeTab";
import { SourcesTab } from "./views/power/SourcesTab";
import { ShelfView } from "./views/shelf/ShelfView";
import { VehicleView } from "./views/vehicle/VehicleView";
import { Lost } from "./parts/Lost";
import { useTheme } from "./parts/theme";

export function App() {
  const [theme, flip] = useTheme();
  return (
    <Routes>
      <Route path="/" element={<ShelfView theme={theme} onTheme={flip} />} />
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
        <Route path="checks" element={<ChecksView />} />
        <Route path="build" element={<BuildView />} />
        <Route path="log" element={<LogView />} />
        <Route path="*" element={<Lost />} />
      </Route>
      <Route path="*" element={<Lost />} />
    </Routes>
  );
}
