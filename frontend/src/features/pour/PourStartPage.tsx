import { useQuery } from "@tanstack/react-query";
import { Button, Select } from "antd";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";

import { Drawing } from "../../shared/Drawing";
import { bound, clockTime, counted, day, duration } from "../../shared/format";
import { Failed, Loading } from "../../shared/states";
import { mouldsQuery } from "../moulds/queries";
import { sheetQuery, sheetsQuery } from "../sheets/queries";
import { Parts } from "../sheets/SheetColumn";
import { STANDS_ON } from "../sheets/standsOn";
import { openPoursQuery, useStartPour } from "./queries";

/** Before a pour: what will be needed, what to take care of, and one press to begin. */
export function PourStartPage() {
  const { id = "" } = useParams();
  const sheet = useQuery(sheetQuery(id));
  const pours = useQuery(openPoursQuery());
  const start = useStartPour();
  const navigate = useNavigate();
  const moulds = useQuery(mouldsQuery());
  const sheets = useQuery(sheetsQuery());
  const listed = sheets.data?.find((one) => one.id === id);
  const [mould, setMould] = useState<string | null>(null);
  if (sheet.isError) return <Failed error={sheet.error} />;
  if (!sheet.data) return <Loading what="the cast sheet" />;
  const { plan, name, piece_id, piece_name, resin_name } = sheet.data;
  const usable = (moulds.data ?? []).filter((one) => one.piece_id === piece_id && !one.retired_at);
  const first = plan.coats[0];
  const open = pours.data?.find((one) => one.sheet_id === id);
  return (
    <section className="page narrow">
      <header>
        <h1>Pour: {name}</h1>
      </header>
      <div className="to-pour">
        <Drawing picture={listed?.picture ?? ""} />
        <div>
          <p className="faint">
            {piece_name} in {resin_name}
          </p>
          <p className="to-pour-figure">
            {counted(plan.coats.length, "coat")} of {first && <Parts coat={first} plan={plan} />}
          </p>
          <p>
            Hands on for <b>{duration(plan.hands_on_s)}</b>, out after{" "}
            <b>{duration(plan.out_after_s)}</b>. {STANDS_ON[plan.stands_on]}
          </p>
        </div>
      </div>
      {usable.length > 0 && (
        <div className="field">
          <label htmlFor="in-mould">In the mould</label>
          <Select
            id="in-mould"
            value={mould ?? usable[0]?.id ?? null}
            onChange={setMould}
            options={usable.map((one) => ({ value: one.id, label: one.name }))}
          />
        </div>
      )}
      <h2>Take care</h2>
      <ul className="cautions">
        {plan.cautions.map((caution) => (
          <li key={caution}>{bound(caution)}</li>
        ))}
      </ul>
      {start.error && <Failed error={start.error} />}
      <div className="actions">
        {open && (
          <Link className="ant-btn big-link" to={`/pour/${open.id}`}>
            Go on with the one from {day(open.started_at)}, {clockTime(open.started_at)}
          </Link>
        )}
        <Button
          type="primary"
          size="large"
          loading={start.isPending}
          onClick={() =>
            start.mutate(
              { sheet_id: id, mould_id: mould },
              { onSuccess: (pour) => void navigate(`/pour/${pour.id}`) },
            )
          }
        >
          Start a pour
        </Button>
      </div>
    </section>
  );
}
