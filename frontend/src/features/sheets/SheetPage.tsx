import { useQuery } from "@tanstack/react-query";
import { useParams, useSearchParams } from "react-router";

import type { Castable, CastSheet, PieceSummary, Wish } from "../../api/client";
import { Failed, Loading, Nothing } from "../../shared/states";
import { piecesQuery, workshopQuery } from "../pieces/queries";
import { castablesQuery } from "../shelf/queries";
import { sheetQuery } from "./queries";
import { SheetDesk } from "./SheetDesk";

export function SheetPage() {
  const { id = "" } = useParams();
  const pieces = useQuery(piecesQuery());
  const castables = useQuery(castablesQuery());
  const workshop = useQuery(workshopQuery());
  const isNew = id === "new";
  const sheet = useQuery({ ...sheetQuery(id), enabled: !isNew });
  const failed = [pieces, castables, workshop, sheet].find((one) => one.isError);
  if (failed?.error) return <Failed error={failed.error} retry={() => void failed.refetch()} />;
  if (!pieces.data || !castables.data || !workshop.data || (!isNew && !sheet.data))
    return <Loading what="the cast sheet" />;
  if (pieces.data.length === 0)
    return <Nothing>No piece yet: upload one at the Pieces station first.</Nothing>;
  return (
    <Opened
      key={id}
      pieces={pieces.data}
      castables={castables.data}
      sheet={sheet.data ?? null}
      firstWish={workshop.data.first_wish as Wish}
    />
  );
}

interface Properties {
  pieces: PieceSummary[];
  castables: Castable[];
  sheet: CastSheet | null;
  firstWish: Wish;
}

function Opened({ pieces, castables, sheet, firstWish }: Properties) {
  const [asked] = useSearchParams();
  const piece = pieces.find((one) => one.id === asked.get("piece")) ?? pieces[0];
  const resin = castables.find((one) => one.key === "pu-fast-rigid") ?? castables[0];
  if (!piece || !resin) return <Nothing>The shelf is empty: put a resin on it first.</Nothing>;
  const start = sheet
    ? { ...sheet, wish: sheet.wish as Wish }
    : {
        name: `${piece.name}, new sheet`,
        piece_id: piece.id,
        material_id: resin.id,
        wish: firstWish,
      };
  return <SheetDesk start={start} kept={sheet} pieces={pieces} castables={castables} />;
}
