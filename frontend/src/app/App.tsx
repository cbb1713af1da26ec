import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { App as AntApp, ConfigProvider } from "antd";
import { BrowserRouter, Navigate, Outlet, Route, Routes } from "react-router";

import { ProblemError } from "../api/client";
import { BesidePage } from "../features/log/BesidePage";
import { FinishPage } from "../features/log/FinishPage";
import { LearnedPage } from "../features/log/LearnedPage";
import { LogEntryPage } from "../features/log/LogEntryPage";
import { LogPage } from "../features/log/LogPage";
import { RunPage } from "../features/log/RunPage";
import { RunsPage } from "../features/log/RunsPage";
import { MouldPage } from "../features/moulds/MouldPage";
import { MouldsPage } from "../features/moulds/MouldsPage";
import { PiecePage } from "../features/pieces/PiecePage";
import { ByHandPage } from "../features/pieces/ByHandPage";
import { PiecesPage } from "../features/pieces/PiecesPage";
import { PourPage } from "../features/pour/PourPage";
import { PourStartPage } from "../features/pour/PourStartPage";
import { PourStationPage } from "../features/pour/PourStationPage";
import { CostPage } from "../features/sheets/CostPage";
import { SheetPage } from "../features/sheets/SheetPage";
import { SheetsPage } from "../features/sheets/SheetsPage";
import { BuyPage } from "../features/shelf/BuyPage";
import { ChainPage } from "../features/shelf/ChainPage";
import { DabsPage } from "../features/shelf/DabsPage";
import { LotsPage } from "../features/shelf/LotsPage";
import { ResinPage } from "../features/shelf/ResinPage";
import { ShelfPage } from "../features/shelf/ShelfPage";
import { NewSupplyPage, SupplyPage } from "../features/shelf/SupplyPage";
import { SuppliesPage } from "../features/shelf/SuppliesPage";
import { BoardPage } from "../features/today/BoardPage";
import { OffersPage } from "../features/today/OffersPage";
import { TodayBenchPage } from "../features/today/TodayBenchPage";
import { TodayPage } from "../features/today/TodayPage";
import { WentPage } from "../features/today/WentPage";
import { WallPage } from "../features/walls/WallPage";
import { WorkshopPage } from "../features/workshop/WorkshopPage";
import { Nothing } from "../shared/states";
import { Rail } from "./Rail";
import { paperTheme } from "./theme";

const queries = new QueryClient({
  defaultOptions: {
    queries: {
      // A refusal stays a refusal; only silence is asked again.
      retry: (count, error) => error instanceof ProblemError && error.status === 0 && count < 2,
      refetchOnWindowFocus: true,
      // The workshop's server stands beside the browser, whatever the way out to the world does.
      networkMode: "always",
    },
    mutations: { networkMode: "always" },
  },
});

function Desk() {
  return (
    <div className="desk">
      <Rail />
      <main id="main" tabIndex={-1}>
        <Outlet />
      </main>
    </div>
  );
}

export function App() {
  return (
    <ConfigProvider theme={paperTheme}>
      <QueryClientProvider client={queries}>
        <AntApp>
          <BrowserRouter>
            <Routes>
              <Route path="pour/:id" element={<PourPage />} />
              <Route path="today/bench" element={<TodayBenchPage />} />
              <Route element={<Desk />}>
                <Route index element={<Navigate to="/sheets" replace />} />
                <Route path="today" element={<TodayPage />} />
                <Route path="today/board" element={<BoardPage />} />
                <Route path="today/went" element={<WentPage />} />
                <Route path="today/offers" element={<OffersPage />} />
                <Route path="pieces" element={<PiecesPage />} />
                <Route path="pieces/by-hand" element={<ByHandPage />} />
                <Route path="pieces/:id" element={<PiecePage />} />
                <Route path="moulds" element={<MouldsPage />} />
                <Route path="moulds/:id" element={<MouldPage />} />
                <Route path="shelf" element={<ShelfPage />} />
                <Route path="shelf/supplies" element={<SuppliesPage />} />
                <Route path="shelf/supplies/new/:kind" element={<NewSupplyPage />} />
                <Route path="shelf/supplies/:id" element={<SupplyPage />} />
                <Route path="shelf/lots" element={<LotsPage />} />
                <Route path="shelf/chain" element={<ChainPage />} />
                <Route path="shelf/dabs" element={<DabsPage />} />
                <Route path="shelf/buy" element={<BuyPage />} />
                <Route path="shelf/:id" element={<ResinPage />} />
                <Route path="sheets" element={<SheetsPage />} />
                <Route path="sheets/:id" element={<SheetPage />} />
                <Route path="sheets/:id/cost" element={<CostPage />} />
                <Route path="sheets/:id/wall" element={<WallPage />} />
                <Route path="sheets/:id/learned" element={<LearnedPage />} />
                <Route path="sheets/:id/pour" element={<PourStartPage />} />
                <Route path="pour" element={<PourStationPage />} />
                <Route path="log" element={<LogPage />} />
                <Route path="log/runs" element={<RunsPage />} />
                <Route path="log/runs/:id" element={<RunPage />} />
                <Route path="log/beside" element={<BesidePage />} />
                <Route path="log/:id" element={<LogEntryPage />} />
                <Route path="log/:id/finish" element={<FinishPage />} />
                <Route path="workshop" element={<WorkshopPage />} />
                <Route path="*" element={<Nothing>There is nothing at this address.</Nothing>} />
              </Route>
            </Routes>
          </BrowserRouter>
        </AntApp>
      </QueryClientProvider>
    </ConfigProvider>
  );
}
