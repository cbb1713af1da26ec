import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { Link, useNavigate } from "react-router";

import { Drawing } from "../../shared/Drawing";
import { clockTime, counted, day } from "../../shared/format";
import { Failed, Loading, Nothing } from "../../shared/states";
import { sheetsQuery } from "../sheets/queries";
import { openPoursQuery } from "./queries";

/** What is being poured, and what could be. */
export function PourStationPage() {
  const pours = useQuery(openPoursQuery());
  const sheets = useQuery(sheetsQuery());
  const navigate = useNavigate();
  const failed = [pours, sheets].find((one) => one.isError);
  if (failed?.error) return <Failed error={failed.error} retry={() => void failed.refetch()} />;
  if (!pours.data || !sheets.data) return <Loading what="the bench" />;
  const open = pours.data;
  return (
    <section className="page">
      <header>
        <h1>Pour</h1>
      </header>
      <h2>On the bench now</h2>
      {open.length === 0 ? (
        <p className="faint">Nothing is being poured.</p>
      ) : (
        <ul className="tiles">
          {open.map((pour) => (
            <li key={pour.id}>
              <Link to={`/pour/${pour.id}`}>
                <b>{pour.sheet_name}</b>
                <span>
                  {pour.next_coat === null ? "curing" : `coat ${pour.next_coat} of ${pour.coats}`},
                  since {day(pour.started_at)} {clockTime(pour.started_at)}
                </span>
              </Link>
            </li>
          ))}
        </ul>
      )}
      <h2>Start from a cast sheet</h2>
      {sheets.data.length === 0 && (
        <Nothing
          action={<Button onClick={() => void navigate("/sheets")}>To the cast sheets</Button>}
        >
          No cast sheet yet.
        </Nothing>
      )}
      <ul className="tiles">
        {sheets.data.map((sheet) => (
          <li key={sheet.id}>
            <Link className="drawn" to={`/sheets/${sheet.id}/pour`}>
              <Drawing picture={sheet.picture} />
              <b>{sheet.name}</b>
              <span>
                {counted(sheet.coats, "coat")}, {sheet.resin_name}
              </span>
            </Link>
          </li>
        ))}
      </ul>
    </section>
  );
}
