import { useState } from "react";

/** Which part of a list. */
export interface ListPage {
  limit: number;
  offset: number;
  search?: string;
  order?: ListOrder;
}

/** What stands first in a list of things with names. */
export type ListOrder = "newest" | "name";

/** A list whose drawings a worker is at is asked for again this often. [ms] */
const DRAWING_MS = 1500;

/** How long to wait before a list is asked for again, for its drawings. */
export const untilDrawn = (list: { drawing: boolean } | undefined) =>
  list?.drawing ? DRAWING_MS : (false as const);

const ROWS = 50;

/** As many as anyone looks through to choose one. */
export const TO_CHOOSE_FROM: ListPage = { limit: 200, offset: 0 };

/** Which page of a list is shown, of how many rows each, and how it is turned. */
export interface ListPages {
  number: number;
  rows: number;
  total: number;
  turnTo: (number: number) => void;
}

/** The page of a list that stands on the server, and how it is turned. */
export function usePages(search = "") {
  const [at, setAt] = useState({ number: 1, search });
  // Another search begins on its first page.
  const number = at.search === search ? at.number : 1;
  const page: ListPage = { limit: ROWS, offset: (number - 1) * ROWS };
  const pagesOf = (total: number): ListPages => ({
    number,
    rows: ROWS,
    total,
    turnTo: (next) => setAt({ number: next, search }),
  });
  return { page, pagesOf };
}

/** A part of a list that is all here. */
export function usePart<Row>(rows: readonly Row[]) {
  const [asked, turnTo] = useState(1);
  // What was found by a search may have fewer pages.
  const number = Math.min(asked, Math.max(1, Math.ceil(rows.length / ROWS)));
  const pages: ListPages = { number, rows: ROWS, total: rows.length, turnTo };
  return { rows: rows.slice((number - 1) * ROWS, number * ROWS), pages };
}

/** What a list of things with names is searched and ordered by, and its page. */
export function useListed() {
  const [search, setSearch] = useState("");
  const [order, setOrder] = useState<ListOrder>("newest");
  const { page, pagesOf } = usePages(`${order} ${search}`);
  return { search, setSearch, order, setOrder, page: { ...page, search, order }, pagesOf };
}
