import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useNavigate } from "react-router";

import type { MouldSummary } from "../../api/client";
import { carried, counted, duration, quantity } from "../../shared/format";
import { GalleryCard, GalleryTools } from "../../shared/Gallery";
import { Turner } from "../../shared/Turner";
import { useListed } from "../../shared/paging";
import { Failed, Loading, Nothing } from "../../shared/states";
import { useUnits } from "../../shared/units";
import { mouldPageQuery } from "./queries";

/** Moulds: what they are built of, and what that takes. */
export function MouldsPage() {
  const { search, setSearch, order, setOrder, page, pagesOf } = useListed();
  const moulds = useQuery(mouldPageQuery(page));
  const navigate = useNavigate();
  const add = (
    <Button type="primary" onClick={() => void navigate("/moulds/new")}>
      Plan a mould
    </Button>
  );
  return (
    <section className="page">
      <header>
        <h1>Moulds</h1>
        {add}
      </header>
      {(search !== "" || (moulds.data?.total ?? 0) > 0) && (
        <GalleryTools
          searched="Search by name"
          search={search}
          onSearch={setSearch}
          order={order}
          onOrder={setOrder}
          shown={moulds.data?.moulds.length ?? 0}
          total={moulds.data?.total ?? 0}
        />
      )}
      {moulds.isPending && <Loading what="the moulds" />}
      {moulds.isError && <Failed error={moulds.error} retry={() => void moulds.refetch()} />}
      {moulds.data?.total === 0 && search !== "" && <Nothing>No mould of that name.</Nothing>}
      {moulds.data?.total === 0 && search === "" && (
        <Nothing action={add}>
          No mould yet. Say what it is built of, and read what that takes before the first brush
          stroke.
        </Nothing>
      )}
      <ul className="gallery">
        {moulds.data?.moulds.map((mould) => (
          <MouldCard key={mould.id} mould={mould} />
        ))}
      </ul>
      <Turner pages={pagesOf(moulds.data?.total ?? 0)} />
    </section>
  );
}

function MouldCard({ mould }: { mould: MouldSummary }) {
  const system = useUnits((state) => state.system);
  const { takes } = mould;
  return (
    <GalleryCard
      picture={mould.picture}
      name={mould.name}
      to={`/moulds/${mould.id}`}
      figure={
        mould.retired_at ? (
          <>retired after {counted(mould.casts_so_far, "cast")}</>
        ) : (
          <>
            {mould.casts_so_far} <small>of {counted(mould.life_casts, "cast")}</small>
          </>
        )
      }
    >
      <p>
        {quantity(mould.rubber_wall_m, "m", system)} of {mould.rubber_name}, shell of{" "}
        {mould.shell_name}
      </p>
      <p>
        {carried(takes.rubber_kg, system)} of rubber
        {takes.rubber_coats > 0 && <> in {counted(takes.rubber_coats, "coat")}</>};{" "}
        {carried(takes.weight_kg, system)} to lift; {duration(takes.hours * 3600)} of work
      </p>
      <p className="faint">
        of {mould.piece_name}
        {!mould.studied && "; estimated, until the piece is studied for it"}
      </p>
    </GalleryCard>
  );
}
