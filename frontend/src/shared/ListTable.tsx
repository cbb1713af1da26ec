import type { ReactNode } from "react";

import { Turner } from "./Turner";
import { usePart, type ListPages } from "./paging";

interface Column<Row> {
  title: string;
  align?: "right";
  render: (row: Row) => ReactNode;
}

interface Properties<Row> {
  /** What it lists, for who does not see it. */
  label: string;
  rows: readonly Row[];
  keyOf: (row: Row) => string | number;
  columns: readonly Column<Row>[];
  /** How a list that stands on the server is turned; without it, all rows are here. */
  pages?: ListPages | undefined;
}

/** A table that becomes a list of blocks on a narrow screen: each cell carries its heading. */
export function ListTable<Row>({ label, rows, keyOf, columns, pages }: Properties<Row>) {
  const here = usePart(rows);
  return (
    <>
      <table className="list stacks" aria-label={label}>
        <thead>
          <tr>
            {columns.map((column) => (
              <th key={column.title} scope="col" className={column.align}>
                {column.title}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {(pages ? rows : here.rows).map((row) => (
            <tr key={keyOf(row)}>
              {columns.map((column) => (
                <td key={column.title} data-label={column.title} className={column.align}>
                  {column.render(row)}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      <Turner pages={pages ?? here.pages} />
    </>
  );
}
