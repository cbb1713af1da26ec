import { Button } from "antd";

import type { ListPages } from "./paging";

/** Turns the pages of a list, where there is more than one. */
export function Turner({ pages }: { pages: ListPages }) {
  const { number, rows, total, turnTo } = pages;
  if (total <= rows) return null;
  const first = (number - 1) * rows + 1;
  const last = Math.min(number * rows, total);
  return (
    <nav className="turner" aria-label="Pages">
      <Button disabled={number === 1} onClick={() => turnTo(number - 1)}>
        Previous
      </Button>
      <span role="status">
        {first} to {last} of {total}
      </span>
      <Button disabled={last === total} onClick={() => turnTo(number + 1)}>
        Next
      </Button>
    </nav>
  );
}
