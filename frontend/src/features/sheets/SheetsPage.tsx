import { useQuery } from "@tanstack/react-query";
import { Button, Table, type TablePaginationConfig } from "antd";
import { Link, useNavigate } from "react-router";

import type { SheetSummary } from "../../api/client";
import { carried, duration, money, quantity } from "../../shared/format";
import { usePages } from "../../shared/paging";
import { Failed, Loading, Nothing } from "../../shared/states";
import { useUnits } from "../../shared/units";
import { piecesQuery, workshopQuery } from "../pieces/queries";
import { sheetPageQuery } from "./queries";

export function SheetsPage() {
  const { page, turnerOf } = usePages();
  const sheets = useQuery(sheetPageQuery(page));
  const pieces = useQuery(piecesQuery());
  const navigate = useNavigate();
  const noPiece = pieces.data?.length === 0;
  const plan = (
    <Button type="primary" onClick={() => void navigate(noPiece ? "/pieces" : "/sheets/new")}>
      {noPiece ? "First a piece" : "Plan a cast"}
    </Button>
  );
  return (
    <section className="page">
      <header>
        <h1>Cast sheets</h1>
        {plan}
      </header>
      {sheets.isPending && <Loading what="the cast sheets" />}
      {sheets.isError && <Failed error={sheets.error} retry={() => void sheets.refetch()} />}
      {sheets.data?.total === 0 && (
        <Nothing action={plan}>
          No cast sheet yet. Take a piece and a resin, and read what to weigh, how often, and when.
        </Nothing>
      )}
      {sheets.data && sheets.data.total > 0 && (
        <SheetTable sheets={sheets.data.sheets} pagination={turnerOf(sheets.data.total)} />
      )}
    </section>
  );
}

interface TableProperties {
  sheets: SheetSummary[];
  pagination: TablePaginationConfig | false;
}

function SheetTable({ sheets, pagination }: TableProperties) {
  const system = useUnits((state) => state.system);
  const workshop = useQuery(workshopQuery());
  return (
    <Table
      rowKey="id"
      dataSource={sheets}
      pagination={pagination}
      columns={[
        {
          title: "Sheet",
          render: (_, one) => (
            <>
              <Link className="row-name" to={`/sheets/${one.id}`}>
                {one.name}
              </Link>
              {one.refused && <div className="due">{one.refused}</div>}
            </>
          ),
        },
        { title: "Piece", dataIndex: "piece_name" },
        { title: "Resin", dataIndex: "resin_name" },
        {
          title: "Wall",
          align: "right",
          render: (_, one) => quantity(one.wall_m, "m", system),
        },
        { title: "Coats", align: "right", render: (_, one) => (one.refused ? "–" : one.coats) },
        {
          title: "To mix",
          align: "right",
          render: (_, one) => quantity(one.total_charge_kg, "kg", system),
        },
        { title: "Cast", align: "right", render: (_, one) => carried(one.cast_kg, system) },
        { title: "Out after", align: "right", render: (_, one) => duration(one.out_after_s) },
        {
          title: "Resin cost",
          align: "right",
          render: (_, one) => money(one.cost, workshop.data?.currency ?? ""),
        },
      ]}
    />
  );
}
