import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate } from "react-router";

import type { NewMould } from "../../api/client";
import { Failed, Loading, Nothing } from "../../shared/states";
import { piecesQuery } from "../pieces/queries";
import { MouldForm } from "./MouldForm";
import { useAddMould } from "./queries";

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

/** A new mould: how it is to be built, and beside it what that takes. */
export function NewMouldPage() {
  const pieces = useQuery(piecesQuery());
  const add = useAddMould();
  const navigate = useNavigate();
  return (
    <section className="page">
      <header>
        <h1>A new mould</h1>
        <Link to="/moulds">Back to the moulds</Link>
      </header>
      {pieces.isPending && <Loading what="the pieces" />}
      {pieces.isError && <Failed error={pieces.error} retry={() => void pieces.refetch()} />}
      {pieces.data?.length === 0 && (
        <Nothing action={<Link to="/pieces">To the pieces</Link>}>
          A mould needs a piece: upload one first.
        </Nothing>
      )}
      {pieces.data?.[0] && (
        <MouldForm
          pieces={pieces.data}
          first={{ ...FIRST, piece_id: pieces.data[0].id }}
          title="What it is built of"
          button="Save this mould"
          pending={add.isPending}
          error={add.error}
          send={(mould) =>
            add.mutate(mould, { onSuccess: (made) => void navigate(`/moulds/${made.id}`) })
          }
        />
      )}
    </section>
  );
}
