import { useQuery } from "@tanstack/react-query";
import { useParams, useSearchParams } from "react-router";

import type { CastSheet, Material, Piece } from "../../api/client";
import { Failed, Loading, Nothing } from "../../shared/states";
import { piecesQuery } from "../pieces/queries";
import { materialsQuery } from "../shelf/queries";
import { sheetQuery } from "./queries";
import { SheetDesk } from "./SheetDesk";

/** What a new sheet starts from, in SI. */
const FIRST_WISH = {
  wall_m: 0.003,
  room_temperature_k: 294.15,
  allowance: 0.15,
  loss: 0.05,
  worn: false,
  scale_step_kg: 0.0001,
  volume_step_m3: 0.000001,
};

export function SheetPage() {
  const { id = "" } = useParams();
  const pieces = useQuery(piecesQuery());
  const materials = useQuery(materialsQuery());
  const isNew = id === "new";
  const sheet = useQuery({ ...sheetQuery(id), enabled: !isNew });
  const failed = [pieces, materials, sheet].find((one) => one.isError);
  if (failed?.error) return <Failed error={failed.error} retry={() => void failed.refetch()} />;
  if (!pieces.data || !materials.data || (!isNew && !sheet.data))
    return <Loading what="the cast sheet" />;
  if (pieces.data.length === 0)
    return <Nothing>No piece yet: upload one at the Pieces station first.</Nothing>;
  return (
    <Opened key={id} pieces={pieces.data} materials={materials.data} sheet={sheet.data ?? null} />
  );
}

interface Properties {
  pieces: Piece[];
  materials: Material[];
  sheet: CastSheet | null;
}

function Opened({ pieces, materials, sheet }: Properties) {
  const [asked] = useSearchParams();
  const piece = pieces.find((one) => one.id === asked.get("piece")) ?? pieces[0];
  const resin = materials.find((one) => one.key === "pu-fast-rigid") ?? materials[0];
  if (!piece || !resin) return <Nothing>The shelf is empty: put a resin on it first.</Nothing>;
  const start = sheet ?? {
    name: `${piece.name}, new sheet`,
    piece_id: piece.id,
    material_id: resin.id,
    wish: FIRST_WISH,
  };
  return <SheetDesk start={start} kept={sheet} pieces={pieces} />;
}
