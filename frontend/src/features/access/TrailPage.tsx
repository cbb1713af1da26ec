import { keepPreviousData, queryOptions, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import { client, unwrap, type TrailLine } from "../../api/client";
import { clockTime, day } from "../../shared/format";
import { ListTable } from "../../shared/ListTable";
import { usePages, type ListPage } from "../../shared/paging";
import { SearchField } from "../../shared/SearchField";
import { Failed, Loading, Nothing } from "../../shared/states";
import { thingIn } from "../../shared/things";
import { useUnits } from "../../shared/units";
import { fieldName, placeOf, valueOf } from "./trailWords";

const trailQuery = (page: ListPage, search: string) =>
  queryOptions({
    queryKey: ["trail", page, search],
    queryFn: () => unwrap(client.GET("/api/v1/trail", { params: { query: { ...page, search } } })),
    placeholderData: keepPreviousData,
  });

/** Who did what, the newest first. */
export function TrailPage() {
  const [search, setSearch] = useState("");
  const { page, pagesOf } = usePages(search);
  const trail = useQuery(trailQuery(page, search));
  const rows = trail.data?.entries ?? [];
  return (
    <section className="page">
      <header>
        <h1>Who did what</h1>
        <SearchField
          label="Search by person or thing"
          value={search}
          onChange={setSearch}
          shown={rows.length}
          total={trail.data?.total ?? 0}
        />
      </header>
      <p className="faint">
        What was changed, by whom, and what it was before. What was deleted is restored under{" "}
        <Link to="/workshop">Workshop</Link>, for thirty days.
      </p>
      {trail.isPending && <Loading what="the trail" />}
      {trail.isError && <Failed error={trail.error} retry={() => void trail.refetch()} />}
      {trail.data && rows.length === 0 && (
        <Nothing>{search ? "Nothing like that was done." : "Nothing was changed yet."}</Nothing>
      )}
      {trail.data && rows.length > 0 && (
        <ListTable
          label="Who did what"
          rows={rows}
          keyOf={(one) => one.id}
          pages={pagesOf(trail.data.total)}
          columns={[
            { title: "When", render: (one) => `${day(one.at)}, ${clockTime(one.at)}` },
            { title: "Who", render: (one) => one.by || "Anybody" },
            { title: "What", render: (one) => <What line={one} /> },
            { title: "Before and after", render: (one) => <Changes line={one} /> },
          ]}
        />
      )}
    </section>
  );
}

function What({ line }: { line: TrailLine }) {
  const place = placeOf(line);
  return (
    <>
      {`${line.action} ${thingIn(line.what)} `}
      {place ? <Link to={place}>{line.name}</Link> : <b>{line.name}</b>}
    </>
  );
}

function Changes({ line }: { line: TrailLine }) {
  const { system } = useUnits();
  if (line.action === "deleted") return null;
  return (
    <ul className="changes">
      {line.changes.map(({ field, before, after }) => (
        <li key={field}>
          {fieldName(field)}: <del>{valueOf(field, before, system)}</del>{" "}
          <ins>{valueOf(field, after, system)}</ins>
        </li>
      ))}
    </ul>
  );
}
