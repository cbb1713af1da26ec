import { useQuery } from "@tanstack/react-query";
import { Table } from "antd";
import { Link } from "react-router";

import type { Pour } from "../../api/client";
import { carried, clockTime, day, quantity } from "../../shared/format";
import { Failed, Loading, Nothing } from "../../shared/states";
import { useUnits } from "../../shared/units";
import { poursQuery } from "../pour/queries";

export const STATUS_WORDS: Record<Pour["status"], string> = {
  open: "being poured",
  cast: "a husk",
  spoilt: "spoilt",
};

export function LogPage() {
  const pours = useQuery(poursQuery());
  return (
    <section className="page">
      <header>
        <h1>Log</h1>
      </header>
      {pours.isPending && <Loading what="the log" />}
      {pours.isError && <Failed error={pours.error} retry={() => void pours.refetch()} />}
      {pours.data?.length === 0 && (
        <Nothing>Nothing poured yet. Every pour stands here, next to what was planned.</Nothing>
      )}
      {pours.data && pours.data.length > 0 && <LogTable pours={pours.data} />}
    </section>
  );
}

function LogTable({ pours }: { pours: Pour[] }) {
  const system = useUnits((state) => state.system);
  return (
    <Table
      rowKey="id"
      dataSource={pours}
      pagination={pours.length > 50 ? { pageSize: 50 } : false}
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
          render: (_, one) => quantity(one.comparison.planned_kg, "kg", system),
        },
        {
          title: "Mixed, really",
          align: "right",
          render: (_, one) => quantity(one.comparison.poured_kg, "kg", system),
        },
        {
          title: "Cast, planned",
          align: "right",
          render: (_, one) => carried(one.comparison.planned_cast_kg, system),
        },
        {
          title: "Cast, really",
          align: "right",
          render: (_, one) =>
            one.comparison.cast_kg == null ? "none" : carried(one.comparison.cast_kg, system),
        },
        { title: "Came out", render: (_, one) => STATUS_WORDS[one.status] },
      ]}
    />
  );
}
