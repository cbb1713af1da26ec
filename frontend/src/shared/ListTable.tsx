import { Table, type TableColumnType, type TableProps } from "antd";

type Column<Row> = Omit<TableColumnType<Row>, "title" | "children"> & { title: string };

interface Properties<Row> extends Omit<TableProps<Row>, "columns"> {
  columns: Column<Row>[];
}

/** A table that becomes a list of blocks on a narrow screen: each cell carries its heading. */
export function ListTable<Row extends object>({ columns, ...others }: Properties<Row>) {
  return (
    <Table<Row>
      className="stacks"
      columns={columns.map((column) => ({
        ...column,
        onCell: () => ({ "data-label": column.title }) as object,
      }))}
      {...others}
    />
  );
}
