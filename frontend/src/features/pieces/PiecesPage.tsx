import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Table, type TablePaginationConfig } from "antd";
import { useEffect, useState } from "react";
import { Link } from "react-router";

import type { PieceSummary } from "../../api/client";
import { day, quantity, size } from "../../shared/format";
import { usePages } from "../../shared/paging";
import { Failed, Loading, Nothing } from "../../shared/states";
import { useUnits } from "../../shared/units";
import { JobProgress } from "../jobs/JobProgress";
import { openJobsQuery } from "../jobs/queries";
import { piecePageQuery } from "./queries";
import { UploadDialog } from "./UploadDialog";

export function PiecesPage() {
  const { page, turnerOf } = usePages();
  const pieces = useQuery(piecePageQuery(page));
  const [uploading, setUploading] = useState(false);
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
      {pieces.isPending && <Loading what="the pieces" />}
      {pieces.isError && <Failed error={pieces.error} retry={() => void pieces.refetch()} />}
      {pieces.data?.total === 0 && (
        <Nothing action={upload}>
          No piece yet. Upload the shape you made the mould of, and read how big it really is.
        </Nothing>
      )}
      {pieces.data && pieces.data.total > 0 && (
        <PieceTable pieces={pieces.data.pieces} pagination={turnerOf(pieces.data.total)} />
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

interface TableProperties {
  pieces: PieceSummary[];
  pagination: TablePaginationConfig | false;
}

function PieceTable({ pieces, pagination }: TableProperties) {
  const system = useUnits((state) => state.system);
  return (
    <Table
      rowKey="id"
      dataSource={pieces}
      pagination={pagination}
      columns={[
        {
          title: "Piece",
          render: (_, piece) => (
            <Link className="row-name" to={`/pieces/${piece.id}`}>
              {piece.name}
            </Link>
          ),
        },
        { title: "Size", render: (_, piece) => size(piece.extents_m, system) },
        {
          title: "Casting face",
          align: "right",
          render: (_, piece) => quantity(piece.area_m2, "m2", system),
        },
        {
          title: "Holds",
          align: "right",
          render: (_, piece) => quantity(piece.volume_m3, "m3", system),
        },
        {
          title: "Openings",
          align: "right",
          render: (_, piece) => piece.openings,
        },
        { title: "Since", render: (_, piece) => day(piece.created_at) },
      ]}
    />
  );
}
