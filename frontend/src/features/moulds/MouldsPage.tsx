import { useQuery } from "@tanstack/react-query";
import { Pagination } from "antd";
import { useState } from "react";
import { Link, useNavigate } from "react-router";

import type { MouldSummary, NewMould } from "../../api/client";
import { quantity } from "../../shared/format";
import { usePages } from "../../shared/paging";
import { Failed, Loading, Nothing } from "../../shared/states";
import { useUnits } from "../../shared/units";
import { piecesQuery } from "../pieces/queries";
import { MouldForm } from "./MouldForm";
import { MouldRequirements } from "./MouldRequirements";
import { mouldPageQuery, useAddMould } from "./queries";

const FIRST: Omit<NewMould, "piece_id"> = {
  name: "",
  rubber_id: "",
  shell_id: "",
  rubber_wall_m: 0.01,
  life_casts: 40,
  way: "brush",
  parts: null,
  coat_m: 0.003,
  print_coat_m: 0.001,
  thinned: false,
  thickened_from: 2,
  thickener: 0.01,
  keys: 8,
  gauze_in: 0,
  coats_m: [],
  clay: null,
  patches: [],
  loss: 0.08,
};

/** Moulds: what they are built of, and what that takes. */
export function MouldsPage() {
  const { page, turnerOf } = usePages();
  const moulds = useQuery(mouldPageQuery(page));
  const turner = turnerOf(moulds.data?.total ?? 0);
  const pieces = useQuery(piecesQuery());
  const add = useAddMould();
  const navigate = useNavigate();
  const [kept, setKept] = useState(0);
  return (
    <section className="page">
      <header>
        <h1>Moulds</h1>
      </header>
      {moulds.isPending && <Loading what="the moulds" />}
      {moulds.isError && <Failed error={moulds.error} retry={() => void moulds.refetch()} />}
      {moulds.data?.total === 0 && (
        <Nothing>
          No mould yet. Say what it is built of, and read what that takes before the first brush
          stroke.
        </Nothing>
      )}
      <div className="cards">
        {moulds.data?.moulds.map((mould) => (
          <MouldCard key={mould.id} mould={mould} />
        ))}
      </div>
      {turner && (
        <Pagination
          current={turner.current ?? 1}
          pageSize={turner.pageSize ?? 50}
          total={turner.total ?? 0}
          showSizeChanger={false}
          onChange={turner.onChange ?? (() => undefined)}
        />
      )}
      {pieces.data && pieces.data.length > 0 && (
        <MouldForm
          key={kept}
          pieces={pieces.data}
          first={{ ...FIRST, piece_id: pieces.data[0]?.id ?? "" }}
          title="A new mould"
          button="Save this mould"
          pending={add.isPending}
          error={add.error}
          send={(mould) =>
            add.mutate(mould, {
              onSuccess: (made) => {
                setKept(kept + 1);
                void navigate(`/moulds/${made.id}`);
              },
            })
          }
        />
      )}
      {pieces.data?.length === 0 && <Nothing>A mould needs a piece: upload one first.</Nothing>}
    </section>
  );
}

function MouldCard({ mould }: { mould: MouldSummary }) {
  const system = useUnits((state) => state.system);
  return (
    <article className="card">
      <h2>
        <Link className="row-name" to={`/moulds/${mould.id}`}>
          {mould.name}
        </Link>
      </h2>
      <p className="faint">
        of {mould.piece_name}; {quantity(mould.rubber_wall_m, "m", system)} of {mould.rubber_name},
        shell of {mould.shell_name};{" "}
        {mould.retired_at
          ? `retired after ${mould.casts_so_far} casts`
          : `${mould.casts_so_far} of ${mould.life_casts} casts`}
      </p>
      <MouldRequirements takes={mould.takes} studied={mould.studied} />
    </article>
  );
}
