import { keepPreviousData, queryOptions, useQuery } from "@tanstack/react-query";
import { Link } from "react-router";

import { client, unwrap } from "../../api/client";
import { carried, day } from "../../shared/format";
import { usePages, type ListPage } from "../../shared/paging";
import { Failed } from "../../shared/states";
import { ListTable } from "../../shared/ListTable";
import { useUnits } from "../../shared/units";
import { STATES } from "../log/CastPanel";
import { Charts } from "../log/Charts";

const castsQuery = (mould: string, page: ListPage) =>
  queryOptions({
    queryKey: ["casts", mould, page],
    queryFn: () =>
      unwrap(
        client.GET("/api/v1/moulds/{id}/casts", {
          params: { path: { id: mould }, query: page },
        }),
      ),
    placeholderData: keepPreviousData,
  });

/** What came out of a mould, the newest first; every cast leads to its pour in the log. */
export function CastsPanel({ mould }: { mould: string }) {
  const { page, pagesOf } = usePages();
  const casts = useQuery(castsQuery(mould, page));
  const system = useUnits((state) => state.system);
  return (
    <section className="card" aria-label="Its casts">
      <h2>Its casts</h2>
      <p>
        <a href={`/api/v1/moulds/${mould}/album.pdf`} download>
          Album (PDF)
        </a>
      </p>
      {casts.data && casts.data.charts.casts.length > 0 && <Charts charts={casts.data.charts} />}
      {casts.error && <Failed error={casts.error} />}
      {casts.data?.total === 0 && (
        <p className="faint">
          None is in the log yet. A pour in this mould becomes one when closed.
        </p>
      )}
      {casts.data && casts.data.total > 0 && (
        <ListTable
          label="Its casts"
          rows={casts.data.casts}
          keyOf={(one) => one.number}
          pages={pagesOf(casts.data.total)}
          columns={[
            {
              title: "Cast",
              render: (one) => (
                <Link className="row-name" to={`/log/${one.pour_id}`}>
                  {one.number}
                </Link>
              ),
            },
            { title: "Poured", render: (one) => day(one.poured_at) },
            { title: "Resin", render: (one) => one.resin_name },
            {
              title: "Weighs",
              align: "right",
              render: (one) => (one.cast_kg === null ? "" : carried(one.cast_kg, system)),
            },
            {
              title: "Planned",
              align: "right",
              render: (one) => carried(one.planned_kg, system),
            },
            { title: "It is", render: (one) => STATES[one.state] },
            { title: "For", render: (one) => one.for_whom },
            { title: "Where", render: (one) => one.place },
          ]}
        />
      )}
    </section>
  );
}
