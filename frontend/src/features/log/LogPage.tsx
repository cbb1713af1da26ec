import { useQuery } from "@tanstack/react-query";
import { Table, type TablePaginationConfig } from "antd";
import { Link } from "react-router";

import type { Pour, PourSummary } from "../../api/client";
import { carried, clockTime, day, quantity } from "../../shared/format";
import { usePages } from "../../shared/paging";
import { Failed, Loading, Nothing } from "../../shared/states";
import { useUnits } from "../../shared/units";
import { pourPageQuery } from "../pour/queries";

export const STATUS_WORDS: Record<Pour["status"], string> = {
  open: "being poured",
  cast: "a husk",
  spoilt: "spoilt",
};

export function LogPage() {
  const { page, turnerOf } = usePages();
  const pours = useQuery(pourPageQuery(page));
  return (
    <section className="page">
      <header>
        <h1>Log</h1>
      </header>
      {pours.isPending && <Loading what="the log" />}
      {pours.isError && <Failed error={pours.error} retry={() => void pours.refetch()} />}
      {pours.data?.total === 0 && (
        <Nothing>Nothing poured yet. Every pour stands here, next to what was planned.</Nothing>
      )}
      {pours.data && pours.data.total > 0 && (
        <LogTable pours={pours.data.pours} pagination={turnerOf(pours.data.total)} />
      )}
    </section>
  );
}

interface TableProperties {
  pours: PourSummary[];
  pagination: TablePaginationConfig | false;
}

function LogTable({ pours, pagination }: TableProperties) {
  const system = useUnits((state) => state.system);
  return (
    <Table
      rowKey="id"
      dataSource={pours}
      pagination={pagination}
      columns={[
        {
          title: "Poured",
          render: (_, one) => (
            <Link className="row-name moment" to={`/log/${one.id}`}>
              {day(one.started_at)}, {clockTime(one.started_at)}
            </Link>
          ),
        },
        { title: "Sheet", dataIndex: "sheet_name" },
        { title: "Resin", dataIndex: "resin_name" },
        {
          title: "Mixed, planned",
          align: "right",
          render: (_, one) => quantity(one.planned_kg, "kg", system),
        },
        {
          title: "Mixed, really",
          align: "right",
          render: (_, one) => quantity(one.poured_kg, "kg", system),
        },
        {
          title: "Cast, planned",
          align: "right",
          render: (_, one) => carried(one.planned_cast_kg, system),
        },
        {
          title: "Cast, really",
          align: "right",
          render: (_, one) => (one.cast_kg == null ? "none" : carried(one.cast_kg, system)),
        },
        { title: "Came out", render: (_, one) => STATUS_WORDS[one.status] },
      ]}
    />
  );
}
