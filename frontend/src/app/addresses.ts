/**
 * Which page stands at which address, and what it asks the server for first.
 *
 * The build writes it beside the pages with the files of each (vite.config.ts); so the server tells
 * the browser of all of them with the first answer, and nothing waits for what came before it.
 */
export interface Address {
  path: string;
  page: string;
  /** A page that has the whole window, without the rail: the bench's. */
  isWhole?: boolean;
  /** Addresses below the API's, as they are asked; `:id` is the one of the page. */
  asks?: readonly string[];
}

export const ADDRESSES = [
  { path: "pour/:id", page: "PourPage", isWhole: true, asks: ["pours/:id"] },
  { path: "join", page: "JoinPage", isWhole: true },
  { path: "today/bench", page: "TodayBenchPage", isWhole: true, asks: ["days"] },
  { path: "today", page: "TodayPage", asks: ["days"] },
  { path: "today/board", page: "BoardPage", asks: ["days/board"] },
  { path: "today/went", page: "WentPage" },
  { path: "today/offers", page: "OffersPage" },
  { path: "pieces", page: "PiecesPage", asks: ["pieces?limit=50&offset=0&search=&order=newest"] },
  { path: "pieces/by-hand", page: "ByHandPage" },
  { path: "pieces/:id", page: "PiecePage", asks: ["pieces/:id"] },
  { path: "pieces/:id/patterns", page: "PiecePatternsPage", asks: ["pieces/:id"] },
  { path: "moulds", page: "MouldsPage", asks: ["moulds?limit=50&offset=0&search=&order=newest"] },
  { path: "moulds/new", page: "NewMouldPage" },
  { path: "moulds/:id", page: "MouldPage", asks: ["moulds/:id"] },
  { path: "moulds/:id/patterns", page: "MouldPatternsPage", asks: ["moulds/:id"] },
  { path: "shelf", page: "ShelfPage" },
  { path: "shelf/supplies", page: "SuppliesPage" },
  { path: "shelf/supplies/new/:kind", page: "NewSupplyPage" },
  { path: "shelf/supplies/:id", page: "SupplyPage" },
  { path: "shelf/lots", page: "LotsPage" },
  { path: "shelf/chain", page: "ChainPage" },
  { path: "shelf/dabs", page: "DabsPage" },
  { path: "shelf/buy", page: "BuyPage" },
  { path: "shelf/:id", page: "ResinPage" },
  {
    path: "sheets",
    page: "SheetsPage",
    asks: ["sheets?limit=50&offset=0&search=&order=newest", "workshop"],
  },
  {
    path: "sheets/:id",
    page: "SheetPage",
    asks: ["sheets/:id", "workshop", "castables"],
  },
  { path: "sheets/:id/cost", page: "CostPage", asks: ["sheets/:id", "workshop"] },
  { path: "sheets/:id/wall", page: "WallPage", asks: ["sheets/:id"] },
  { path: "sheets/:id/learned", page: "LearnedPage" },
  {
    path: "sheets/:id/pour",
    page: "PourStartPage",
    asks: ["sheets/:id", "pours?limit=200&offset=0&status=open"],
  },
  {
    path: "pour",
    page: "PourStationPage",
    asks: ["pours?limit=200&offset=0&status=open", "sheets?limit=200&offset=0"],
  },
  { path: "log", page: "LogPage", asks: ["pours?limit=50&offset=0&search="] },
  { path: "log/runs", page: "RunsPage" },
  { path: "log/runs/:id", page: "RunPage" },
  { path: "log/beside", page: "BesidePage" },
  { path: "log/:id", page: "LogEntryPage", asks: ["pours/:id"] },
  { path: "log/:id/finish", page: "FinishPage", asks: ["pours/:id/finish"] },
  { path: "practice", page: "PracticePage" },
  { path: "workshop", page: "WorkshopPage" },
  { path: "workshop/trail", page: "TrailPage" },
] as const satisfies readonly Address[];

export type PageName = (typeof ADDRESSES)[number]["page"];
