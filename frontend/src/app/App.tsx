import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { ConfigProvider } from "antd";
import { lazy, Suspense, useLayoutEffect, useMemo, type ComponentType } from "react";
import { BrowserRouter, Link, Navigate, Outlet, Route, Routes } from "react-router";

import { ProblemError } from "../api/client";
import { Notices } from "../shared/Notices";
import { Question } from "../shared/Question";
import { Loading, Nothing } from "../shared/states";
import { FINGERS, useDark, useMedia } from "./look";
import { Rail } from "./Rail";
import { deskTheme } from "./theme";
import { Tour } from "./Tour";
import { usePageTitle } from "./usePageTitle";

/** A page that is fetched when somebody goes to it. */
function page<Name extends string>(load: () => Promise<Record<Name, ComponentType>>, name: Name) {
  return lazy(async () => ({ default: (await load())[name] }));
}

const BesidePage = page(() => import("../features/log/BesidePage"), "BesidePage");
const FinishPage = page(() => import("../features/log/FinishPage"), "FinishPage");
const LearnedPage = page(() => import("../features/log/LearnedPage"), "LearnedPage");
const LogEntryPage = page(() => import("../features/log/LogEntryPage"), "LogEntryPage");
const LogPage = page(() => import("../features/log/LogPage"), "LogPage");
const RunPage = page(() => import("../features/log/RunPage"), "RunPage");
const RunsPage = page(() => import("../features/log/RunsPage"), "RunsPage");
const MouldPage = page(() => import("../features/moulds/MouldPage"), "MouldPage");
const MouldsPage = page(() => import("../features/moulds/MouldsPage"), "MouldsPage");
const NewMouldPage = page(() => import("../features/moulds/NewMouldPage"), "NewMouldPage");
const PiecePage = page(() => import("../features/pieces/PiecePage"), "PiecePage");
const ByHandPage = page(() => import("../features/pieces/ByHandPage"), "ByHandPage");
const PiecesPage = page(() => import("../features/pieces/PiecesPage"), "PiecesPage");
const PracticePage = page(() => import("../features/practice/PracticePage"), "PracticePage");
const PourPage = page(() => import("../features/pour/PourPage"), "PourPage");
const PourStartPage = page(() => import("../features/pour/PourStartPage"), "PourStartPage");
const PourStationPage = page(() => import("../features/pour/PourStationPage"), "PourStationPage");
const CostPage = page(() => import("../features/sheets/CostPage"), "CostPage");
const SheetPage = page(() => import("../features/sheets/SheetPage"), "SheetPage");
const SheetsPage = page(() => import("../features/sheets/SheetsPage"), "SheetsPage");
const BuyPage = page(() => import("../features/shelf/BuyPage"), "BuyPage");
const ChainPage = page(() => import("../features/shelf/ChainPage"), "ChainPage");
const DabsPage = page(() => import("../features/shelf/DabsPage"), "DabsPage");
const LotsPage = page(() => import("../features/shelf/LotsPage"), "LotsPage");
const ResinPage = page(() => import("../features/shelf/ResinPage"), "ResinPage");
const ShelfPage = page(() => import("../features/shelf/ShelfPage"), "ShelfPage");
const NewSupplyPage = page(() => import("../features/shelf/SupplyPage"), "NewSupplyPage");
const SupplyPage = page(() => import("../features/shelf/SupplyPage"), "SupplyPage");
const SuppliesPage = page(() => import("../features/shelf/SuppliesPage"), "SuppliesPage");
const BoardPage = page(() => import("../features/today/BoardPage"), "BoardPage");
const OffersPage = page(() => import("../features/today/OffersPage"), "OffersPage");
const TodayBenchPage = page(() => import("../features/today/TodayBenchPage"), "TodayBenchPage");
const TodayPage = page(() => import("../features/today/TodayPage"), "TodayPage");
const WentPage = page(() => import("../features/today/WentPage"), "WentPage");
const WallPage = page(() => import("../features/walls/WallPage"), "WallPage");
const WorkshopPage = page(() => import("../features/workshop/WorkshopPage"), "WorkshopPage");

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
        <Suspense fallback={<Loading what="the page" />}>
          <Outlet />
        </Suspense>
        <Tour />
      </main>
    </div>
  );
}

function Nowhere() {
  return (
    <section className="page">
      <header>
        <h1>Nothing here</h1>
      </header>
      <Nothing action={<Link to="/today">To today</Link>}>
        There is nothing at this address.
      </Nothing>
    </section>
  );
}

/** The window's name and the focus follow the page. */
function Whole() {
  usePageTitle();
  return (
    <Suspense fallback={<Loading what="the page" />}>
      <Outlet />
    </Suspense>
  );
}

/** What opens out of a dialog opens inside it: nothing else is above one. */
function besideIt(opener?: HTMLElement): HTMLElement {
  return opener?.closest("dialog") ?? document.body;
}

export function App() {
  const isDark = useDark();
  const byFinger = useMedia(FINGERS);
  useLayoutEffect(() => {
    document.documentElement.dataset["look"] = isDark ? "dark" : "light";
  }, [isDark]);
  const theme = useMemo(() => deskTheme(isDark, byFinger), [isDark, byFinger]);
  return (
    <ConfigProvider theme={theme} getPopupContainer={besideIt}>
      <QueryClientProvider client={queries}>
        <BrowserRouter>
          <Routes>
            <Route element={<Whole />}>
              <Route path="pour/:id" element={<PourPage />} />
              <Route path="today/bench" element={<TodayBenchPage />} />
              <Route element={<Desk />}>
                <Route index element={<Navigate to="/today" replace />} />
                <Route path="today" element={<TodayPage />} />
                <Route path="today/board" element={<BoardPage />} />
                <Route path="today/went" element={<WentPage />} />
                <Route path="today/offers" element={<OffersPage />} />
                <Route path="pieces" element={<PiecesPage />} />
                <Route path="pieces/by-hand" element={<ByHandPage />} />
                <Route path="pieces/:id" element={<PiecePage />} />
                <Route path="moulds" element={<MouldsPage />} />
                <Route path="moulds/new" element={<NewMouldPage />} />
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
                <Route path="practice" element={<PracticePage />} />
                <Route path="workshop" element={<WorkshopPage />} />
                <Route path="*" element={<Nowhere />} />
              </Route>
            </Route>
          </Routes>
        </BrowserRouter>
        <Question />
        <Notices />
      </QueryClientProvider>
    </ConfigProvider>
  );
}
