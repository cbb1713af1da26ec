import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useNavigate } from "react-router";

import type { SheetSummary } from "../../api/client";
import { carried, counted, day, duration, money, quantity } from "../../shared/format";
import { GalleryCard, GalleryTools } from "../../shared/Gallery";
import { Turner } from "../../shared/Turner";
import { useListed } from "../../shared/paging";
import { Failed, Loading, Nothing } from "../../shared/states";
import { useUnits } from "../../shared/units";
import { workshopQuery } from "../../shared/standing";
import { piecesQuery } from "../pieces/queries";
import { sheetPageQuery } from "./queries";

export function SheetsPage() {
  const { search, setSearch, order, setOrder, page, pagesOf } = useListed();
  const workshop = useQuery(workshopQuery());
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
      {(search !== "" || (sheets.data?.total ?? 0) > 0) && (
        <GalleryTools
          searched="Search: sheet, piece, resin"
          search={search}
          onSearch={setSearch}
          order={order}
          onOrder={setOrder}
          shown={sheets.data?.sheets.length ?? 0}
          total={sheets.data?.total ?? 0}
        />
      )}
      {sheets.isPending && <Loading what="the cast sheets" />}
      {sheets.isError && <Failed error={sheets.error} retry={() => void sheets.refetch()} />}
      {sheets.data?.total === 0 && search !== "" && (
        <Nothing>No cast sheet has “{search}” in it.</Nothing>
      )}
      {sheets.data?.total === 0 && search === "" && (
        <Nothing action={plan}>
          No cast sheet yet. Take a piece and a resin, and read what to weigh, how often, and when.
        </Nothing>
      )}
      {sheets.data && sheets.data.total > 0 && (
        <>
          <ul className="gallery">
            {sheets.data.sheets.map((sheet) => (
              <SheetCard key={sheet.id} sheet={sheet} currency={workshop.data?.currency ?? ""} />
            ))}
          </ul>
          <Turner pages={pagesOf(sheets.data.total)} />
        </>
      )}
    </section>
  );
}

function SheetCard({ sheet, currency }: { sheet: SheetSummary; currency: string }) {
  const system = useUnits((state) => state.system);
  return (
    <GalleryCard
      picture={sheet.picture}
      name={sheet.name}
      to={`/sheets/${sheet.id}`}
      figure={
        sheet.refused ? (
          <small className="due">{sheet.refused}</small>
        ) : (
          <>
            {counted(sheet.coats, "coat")}, {quantity(sheet.total_charge_kg, "kg", system)}{" "}
            <small>to mix</small>
          </>
        )
      }
    >
      <p>
        {quantity(sheet.wall_m, "m", system)} in {sheet.resin_name}
      </p>
      {!sheet.refused && (
        <p>
          {carried(sheet.cast_kg, system)} cast, out after {duration(sheet.out_after_s)},{" "}
          {money(sheet.cost, currency)}
        </p>
      )}
      <p className="faint">
        {sheet.piece_name}, {day(sheet.created_at)}
      </p>
    </GalleryCard>
  );
}
