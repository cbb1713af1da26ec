import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useParams, useSearchParams } from "react-router";

import type { Castable, CastSheet, SheetPiece, Wish } from "../../api/client";
import { Failed, Loading, Nothing } from "../../shared/states";
import { workshopQuery } from "../../shared/standing";
import { piecesQuery } from "../pieces/queries";
import { castablesQuery } from "../shelf/queries";
import { sheetQuery } from "./queries";
import { SheetDesk } from "./SheetDesk";

export function SheetPage() {
  const { id = "" } = useParams();
  const [isChoosing, setIsChoosing] = useState(false);
  const castables = useQuery(castablesQuery());
  const workshop = useQuery(workshopQuery());
  const isNew = id === "new";
  // A kept sheet comes with its piece; the others are looked up when one is chosen.
  const pieces = useQuery({ ...piecesQuery(), enabled: isNew || isChoosing });
  const sheet = useQuery({ ...sheetQuery(id), enabled: !isNew });
  // Who is at a sheet already keeps it where something is not answered again.
  const needed = [castables, workshop, isNew ? pieces : sheet];
  const failed = needed.find((one) => one.isLoadingError);
  if (failed?.error) return <Failed error={failed.error} retry={() => void failed.refetch()} />;
  const own = sheet.data?.piece;
  const others = pieces.data?.filter((one) => one.id !== own?.id);
  const known = own ? [own, ...(others ?? [])] : others;
  if (!known || !castables.data || !workshop.data || (!isNew && !sheet.data))
    return <Loading what="the cast sheet" />;
  if (known.length === 0)
    return <Nothing>No piece yet: upload one at the Pieces station first.</Nothing>;
  return (
    <Opened
      key={id}
      pieces={known}
      onChoose={() => setIsChoosing(true)}
      castables={castables.data}
      sheet={sheet.data ?? null}
      keptAt={sheet.dataUpdatedAt}
      firstWish={workshop.data.first_wish as Wish}
    />
  );
}

interface Properties {
  pieces: SheetPiece[];
  onChoose: () => void;
  castables: Castable[];
  sheet: CastSheet | null;
  keptAt: number;
  firstWish: Wish;
}

function Opened({ pieces, onChoose, castables, sheet, keptAt, firstWish }: Properties) {
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
  return (
    <SheetDesk
      start={start}
      kept={sheet}
      keptAt={keptAt}
      pieces={pieces}
      onChoose={onChoose}
      castables={castables}
    />
  );
}
