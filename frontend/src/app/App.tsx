import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { ConfigProvider } from "antd";
import { lazy, Suspense, useLayoutEffect, useMemo, type ComponentType } from "react";
import { BrowserRouter, Link, Navigate, Outlet, Route, Routes } from "react-router";

import { onStranger, ProblemError } from "../api/client";
import { AskWho } from "../features/access/AskWho";
import { useSignedOut } from "../features/access/signedOut";
import { Notices } from "../shared/Notices";
import { Question } from "../shared/Question";
import { useStanding } from "../shared/standing";
import { Loading, Nothing } from "../shared/states";
import { ADDRESSES, type Address, type PageName } from "./addresses";
import { FINGERS, useDark, useMedia } from "./look";
import { Rail } from "./Rail";
import { deskTheme } from "./theme";
import { Tour } from "./Tour";
import { usePageTitle } from "./usePageTitle";

/** A page that is fetched when somebody goes to it. */
function page<Name extends string>(load: () => Promise<Record<Name, ComponentType>>, name: Name) {
  return lazy(async () => ({ default: (await load())[name] }));
}

const PAGES: Record<PageName, ComponentType> = {
  JoinPage: page(() => import("../features/access/JoinPage"), "JoinPage"),
  BesidePage: page(() => import("../features/log/BesidePage"), "BesidePage"),
  FinishPage: page(() => import("../features/log/FinishPage"), "FinishPage"),
  LearnedPage: page(() => import("../features/log/LearnedPage"), "LearnedPage"),
  LogEntryPage: page(() => import("../features/log/LogEntryPage"), "LogEntryPage"),
  LogPage: page(() => import("../features/log/LogPage"), "LogPage"),
  RunPage: page(() => import("../features/log/RunPage"), "RunPage"),
  RunsPage: page(() => import("../features/log/RunsPage"), "RunsPage"),
  MouldPage: page(() => import("../features/moulds/MouldPage"), "MouldPage"),
  MouldsPage: page(() => import("../features/moulds/MouldsPage"), "MouldsPage"),
  MouldPatternsPage: page(() => import("../features/patterns/PatternsPage"), "MouldPatternsPage"),
  PiecePatternsPage: page(() => import("../features/patterns/PatternsPage"), "PiecePatternsPage"),
  NewMouldPage: page(() => import("../features/moulds/NewMouldPage"), "NewMouldPage"),
  PiecePage: page(() => import("../features/pieces/PiecePage"), "PiecePage"),
  ByHandPage: page(() => import("../features/pieces/ByHandPage"), "ByHandPage"),
  PiecesPage: page(() => import("../features/pieces/PiecesPage"), "PiecesPage"),
  PracticePage: page(() => import("../features/practice/PracticePage"), "PracticePage"),
  PourPage: page(() => import("../features/pour/PourPage"), "PourPage"),
  PourStartPage: page(() => import("../features/pour/PourStartPage"), "PourStartPage"),
  PourStationPage: page(() => import("../features/pour/PourStationPage"), "PourStationPage"),
  CostPage: page(() => import("../features/sheets/CostPage"), "CostPage"),
  SheetPage: page(() => import("../features/sheets/SheetPage"), "SheetPage"),
  SheetsPage: page(() => import("../features/sheets/SheetsPage"), "SheetsPage"),
  BuyPage: page(() => import("../features/shelf/BuyPage"), "BuyPage"),
  ChainPage: page(() => import("../features/shelf/ChainPage"), "ChainPage"),
  DabsPage: page(() => import("../features/shelf/DabsPage"), "DabsPage"),
  LotsPage: page(() => import("../features/shelf/LotsPage"), "LotsPage"),
  ResinPage: page(() => import("../features/shelf/ResinPage"), "ResinPage"),
  ShelfPage: page(() => import("../features/shelf/ShelfPage"), "ShelfPage"),
  NewSupplyPage: page(() => import("../features/shelf/SupplyPage"), "NewSupplyPage"),
  SupplyPage: page(() => import("../features/shelf/SupplyPage"), "SupplyPage"),
  SuppliesPage: page(() => import("../features/shelf/SuppliesPage"), "SuppliesPage"),
  BoardPage: page(() => import("../features/today/BoardPage"), "BoardPage"),
  OffersPage: page(() => import("../features/today/OffersPage"), "OffersPage"),
  TodayBenchPage: page(() => import("../features/today/TodayBenchPage"), "TodayBenchPage"),
  TodayPage: page(() => import("../features/today/TodayPage"), "TodayPage"),
  WentPage: page(() => import("../features/today/WentPage"), "WentPage"),
  TrailPage: page(() => import("../features/access/TrailPage"), "TrailPage"),
  WallPage: page(() => import("../features/walls/WallPage"), "WallPage"),
  WorkshopPage: page(() => import("../features/workshop/WorkshopPage"), "WorkshopPage"),
};

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

onStranger(
  () => useSignedOut.setState({ isOut: true }),
  () => useSignedOut.setState({ isOut: false }),
);

function Desk() {
  useStanding();
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

function isWhole(one: Address): boolean {
  return one.isWhole === true;
}

function routed({ path, page: name }: (typeof ADDRESSES)[number]) {
  const Page = PAGES[name];
  return <Route key={path} path={path} element={<Page />} />;
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
              {ADDRESSES.filter(isWhole).map(routed)}
              <Route element={<Desk />}>
                <Route index element={<Navigate to="/today" replace />} />
                {ADDRESSES.filter((one) => !isWhole(one)).map(routed)}
                <Route path="*" element={<Nowhere />} />
              </Route>
            </Route>
          </Routes>
        </BrowserRouter>
        <AskWho />
        <Question />
        <Notices />
      </QueryClientProvider>
    </ConfigProvider>
  );
}
