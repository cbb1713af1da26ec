import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Button } from "antd";
import { useEffect, useState } from "react";
import { Link, useLocation } from "react-router";

import type { PieceSummary } from "../../api/client";
import { counted, day, quantity, size } from "../../shared/format";
import { GalleryCard, GalleryTools } from "../../shared/Gallery";
import { Turner } from "../../shared/Turner";
import { useListed } from "../../shared/paging";
import { Failed, Loading, Nothing } from "../../shared/states";
import { useUnits } from "../../shared/units";
import { JobProgress } from "../jobs/JobProgress";
import { openJobsQuery } from "../jobs/queries";
import { piecePageQuery } from "./queries";
import { UploadDialog } from "./UploadDialog";

const SOURCE_WORDS: Record<PieceSummary["source"], string> = {
  file: "from a file",
  tape: "by tape",
  filling: "by filling",
  clay: "by clay",
  cast: "by a weighed cast",
};

export function PiecesPage() {
  const { search, setSearch, order, setOrder, page, pagesOf } = useListed();
  const pieces = useQuery(piecePageQuery(page));
  // Whoever comes to upload something is asked for it at once.
  const { state } = useLocation() as { state: { uploading?: boolean } | null };
  const [uploading, setUploading] = useState(state?.uploading ?? false);
  const upload = (
    <span className="actions">
      <Link className="ant-btn big-link" to="/pieces/by-hand">
        Measure by hand
      </Link>
      <Button type="primary" onClick={() => setUploading(true)}>
        Upload a shape
      </Button>
    </span>
  );
  return (
    <section className="page">
      <header>
        <h1>Pieces</h1>
        {upload}
      </header>
      <UploadDialog open={uploading} onClose={() => setUploading(false)} />
      <OpenSurveys />
      {(search !== "" || (pieces.data?.total ?? 0) > 0) && (
        <GalleryTools
          searched="Search by name"
          search={search}
          onSearch={setSearch}
          order={order}
          onOrder={setOrder}
          shown={pieces.data?.pieces.length ?? 0}
          total={pieces.data?.total ?? 0}
        />
      )}
      {pieces.isPending && <Loading what="the pieces" />}
      {pieces.isError && <Failed error={pieces.error} retry={() => void pieces.refetch()} />}
      {pieces.data?.total === 0 && search !== "" && <Nothing>No piece of that name.</Nothing>}
      {pieces.data?.total === 0 && search === "" && (
        <Nothing action={upload}>
          No piece yet. Upload the shape you made the mould of, and read how big it really is.
        </Nothing>
      )}
      {pieces.data && pieces.data.total > 0 && (
        <>
          <ul className="gallery">
            {pieces.data.pieces.map((piece) => (
              <PieceCard key={piece.id} piece={piece} />
            ))}
          </ul>
          <Turner pages={pagesOf(pieces.data.total)} />
        </>
      )}
    </section>
  );
}

/** What is being measured just now; it stands in the table when it is done. */
function OpenSurveys() {
  const jobs = useQuery(openJobsQuery("survey"));
  const queries = useQueryClient();
  const count = jobs.data?.length ?? 0;
  useEffect(() => {
    // One more or one less: what came of it is among the pieces.
    void queries.invalidateQueries({ queryKey: ["pieces", "list"] });
  }, [count, queries]);
  return jobs.data?.map((job) => <JobProgress key={job.id} job={job} />);
}

function PieceCard({ piece }: { piece: PieceSummary }) {
  const system = useUnits((state) => state.system);
  return (
    <GalleryCard
      picture={piece.picture}
      name={piece.name}
      to={`/pieces/${piece.id}`}
      figure={quantity(piece.area_m2, "m2", system)}
    >
      <p>{size(piece.extents_m, system)}</p>
      <p>
        holds {quantity(piece.volume_m3, "m3", system)};{" "}
        {piece.openings === 0 ? "closed" : counted(piece.openings, "opening")}
      </p>
      <p className="faint">
        {SOURCE_WORDS[piece.source]}, {day(piece.created_at)}
      </p>
    </GalleryCard>
  );
}
