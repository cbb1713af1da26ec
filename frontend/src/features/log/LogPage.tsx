import { useQuery } from "@tanstack/react-query";
import { Button, Checkbox } from "antd";
import { useState } from "react";
import { Link, useNavigate } from "react-router";

import type { Pour, PourSummary } from "../../api/client";
import { carried, clockTime, day, quantity } from "../../shared/format";
import { usePages, type ListPages } from "../../shared/paging";
import { SearchField } from "../../shared/SearchField";
import { Failed, Loading, Nothing } from "../../shared/states";
import { ListTable } from "../../shared/ListTable";
import { useUnits } from "../../shared/units";
import { pourPageQuery } from "../pour/queries";
import { LogNav } from "./LogNav";

export const STATUS_WORDS: Record<Pour["status"], string> = {
  open: "being poured",
  cast: "a husk",
  spoilt: "spoilt",
};

/** So many pours stand beside each other at most. */
const MOST_BESIDE = 4;

export function LogPage() {
  const [search, setSearch] = useState("");
  const { page, pagesOf } = usePages(search);
  const pours = useQuery(pourPageQuery({ ...page, search }));
  return (
    <section className="page">
      <header>
        <h1>Log</h1>
        <SearchField
          label="Search: sheet, piece, resin, fault, note"
          value={search}
          onChange={setSearch}
          shown={pours.data?.pours.length ?? 0}
          total={pours.data?.total ?? 0}
        />
        <span className="links">
          <a href="/api/v1/log.csv" download>
            as CSV
          </a>
          <a href="/api/v1/log.json" download>
            as JSON
          </a>
        </span>
      </header>
      <LogNav />
      {pours.isPending && <Loading what="the log" />}
      {pours.isError && <Failed error={pours.error} retry={() => void pours.refetch()} />}
      {pours.data?.total === 0 && search !== "" && (
        <Nothing>Nothing in the log has “{search}” in it.</Nothing>
      )}
      {pours.data?.total === 0 && search === "" && (
        <Nothing>Nothing poured yet. Every pour stands here, next to what was planned.</Nothing>
      )}
      {pours.data && pours.data.total > 0 && (
        <LogTable pours={pours.data.pours} pages={pagesOf(pours.data.total)} />
      )}
    </section>
  );
}

interface TableProperties {
  pours: PourSummary[];
  pages: ListPages;
}

function LogTable({ pours, pages }: TableProperties) {
  const system = useUnits((state) => state.system);
  const navigate = useNavigate();
  const [chosen, setChosen] = useState<string[]>([]);
  return (
    <>
      <Button
        className="set-beside"
        disabled={chosen.length < 2}
        onClick={() => void navigate(`/log/beside?${chosen.map((one) => `pour=${one}`).join("&")}`)}
      >
        {chosen.length < 2
          ? "Tick two to four pours to compare them"
          : `Compare ${chosen.length} pours`}
      </Button>
      <ListTable
        label="Pours"
        rows={pours}
        keyOf={(one) => one.id}
        pages={pages}
        columns={[
          {
            title: "Compare",
            render: (one) => (
              <Checkbox
                aria-label={`Compare ${one.sheet_name}, ${day(one.started_at)}`}
                checked={chosen.includes(one.id)}
                disabled={chosen.length >= MOST_BESIDE && !chosen.includes(one.id)}
                onChange={(event) =>
                  setChosen(
                    event.target.checked
                      ? [...chosen, one.id]
                      : chosen.filter((other) => other !== one.id),
                  )
                }
              />
            ),
          },
          {
            title: "Poured",
            render: (one) => (
              <Link className="row-name moment" to={`/log/${one.id}`}>
                {day(one.started_at)}, {clockTime(one.started_at)}
              </Link>
            ),
          },
          {
            title: "Sheet",
            render: (one) => (
              <>
                {one.sheet_name}
                <div className="faint">{one.resin_name}</div>
              </>
            ),
          },
          {
            title: "Mixed, planned",
            align: "right",
            render: (one) => quantity(one.planned_kg, "kg", system),
          },
          {
            title: "Mixed, actual",
            align: "right",
            render: (one) => quantity(one.poured_kg, "kg", system),
          },
          {
            title: "Cast, planned",
            align: "right",
            render: (one) => carried(one.planned_cast_kg, system),
          },
          {
            title: "Cast, actual",
            align: "right",
            render: (one) => (one.cast_kg == null ? "none" : carried(one.cast_kg, system)),
          },
          {
            title: "Came out",
            render: (one) =>
              one.cast_number === null ? STATUS_WORDS[one.status] : `cast ${one.cast_number}`,
          },
          { title: "Faults", render: (one) => one.faults.join(", ") },
        ]}
      />
    </>
  );
}
