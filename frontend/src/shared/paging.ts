import type { TablePaginationConfig } from "antd";
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

/** The page of a table that stands on the server, and how the table turns it. */
export function usePages(search = "") {
  const [at, setAt] = useState({ number: 1, search });
  // Another search begins on its first page.
  const number = at.search === search ? at.number : 1;
  const page: ListPage = { limit: ROWS, offset: (number - 1) * ROWS };
  const turnerOf = (total: number): TablePaginationConfig | false =>
    total > ROWS && {
      current: number,
      pageSize: ROWS,
      total,
      showSizeChanger: false,
      onChange: (next) => setAt({ number: next, search }),
    };
  return { page, turnerOf };
}

/** What a list of things with names is searched and ordered by, and its page. */
export function useListed() {
  const [search, setSearch] = useState("");
  const [order, setOrder] = useState<ListOrder>("newest");
  const { page, turnerOf } = usePages(`${order} ${search}`);
  return { search, setSearch, order, setOrder, page: { ...page, search, order }, turnerOf };
}
