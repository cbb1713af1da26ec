import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { Link, useNavigate, useParams } from "react-router";

import type { CastRun } from "../../api/client";
import { useNotices } from "../../shared/Notices";
import { useConfirm } from "../../shared/Question";
import { carried, counted, day, quantity } from "../../shared/format";
import { Failed, Loading } from "../../shared/states";
import { useUnits } from "../../shared/units";
import { useAddRun } from "../today/queries";
import { Charts } from "./Charts";
import { runQuery, useDeleteRun, useEndRun } from "./learnedQueries";

/** One run: how many are done, what the rest takes, whether its moulds last, and its charts. */
export function RunPage() {
  const { id = "" } = useParams();
  const told = useQuery(runQuery(id));
  if (told.isPending) return <Loading what="the run" />;
  if (told.isError) return <Failed error={told.error} retry={() => void told.refetch()} />;
  const { run, charts } = told.data;
  return (
    <section className="page">
      <Heading run={run} />
      <div className="run-columns">
        <Figures run={run} />
        <section aria-label="Control charts">
          <h2>Control charts</h2>
          <p className="faint">
            Each cast as it came; the lines are the mean and three sigma, from the moving range.
            Weights are as if every cast had been planned as the newest.
          </p>
          <Charts charts={charts} />
        </section>
      </div>
    </section>
  );
}

function Heading({ run }: { run: CastRun }) {
  const confirm = useConfirm();
  const refuse = useNotices((state) => state.refuse);
  const navigate = useNavigate();
  const end = useEndRun(run);
  const remove = useDeleteRun(run.id);
  const plan = useAddRun();
  const ask = () =>
    confirm({
      title: `Delete “${run.name}”?`,
      content: "Its casts stay in the log.",
      ok: "Delete",
      onOk: () => remove.mutateAsync().then(() => navigate("/log/runs"), refuse),
    });
  return (
    <header>
      <h1>{run.name}</h1>
      <span className="actions">
        <Link to="/log/runs">All runs</Link>
        {!run.ended_at && run.state.left > 0 && (
          <Button
            loading={plan.isPending}
            onClick={() =>
              plan.mutate(run.id, {
                onSuccess: () => void navigate("/today"),
                onError: refuse,
              })
            }
          >
            Put the casts into the days
          </Button>
        )}
        <Button
          loading={end.isPending}
          onClick={() => end.mutate(!run.ended_at, { onError: refuse })}
        >
          {run.ended_at ? "Reopen the run" : "End the run"}
        </Button>
        <Button onClick={ask}>Delete</Button>
      </span>
    </header>
  );
}

function Figures({ run }: { run: CastRun }) {
  const system = useUnits((state) => state.system);
  const { state } = run;
  const short = state.resin_kg === null ? 0 : state.resin_kg - state.stock_kg;
  return (
    <section aria-label="Where it stands">
      <p className="why-figure">
        {state.done} <small>of {counted(run.wanted, "cast")}</small>
      </p>
      <p>
        By <Link to={`/sheets/${run.sheet_id}`}>{run.sheet_name}</Link>, due {day(run.due_on)}.
        {state.spoilt > 0 && ` ${state.spoilt} spoilt on the way.`}
      </p>
      {run.ended_at ? (
        <p className="faint">Ended {day(run.ended_at)}.</p>
      ) : state.left === 0 ? (
        <p className="rim-verdict">All of them are cast.</p>
      ) : (
        <>
          <p className={state.days_left === 0 ? "due" : undefined}>
            {state.days_left === 0 ? (
              <>It was due: {state.left} are missing.</>
            ) : (
              <>
                {state.left} to go in {counted(state.days_left, "day")}:{" "}
                <b>{Math.ceil(10 * state.per_day) / 10} a day</b>.
              </>
            )}
          </p>
          <p className={short > 0 || state.resin_kg === null ? "due" : undefined}>
            {state.resin_kg === null ? (
              <>Its cast sheet cannot be planned: {state.unplanned}</>
            ) : (
              <>
                They take <b>{carried(state.resin_kg, system)}</b> of resin; your lots have{" "}
                {carried(state.stock_kg, system)}.
              </>
            )}
            {short > 0 && (
              <>
                {" "}
                <b>{carried(short, system)}</b> is missing: <Link to="/shelf/buy">buy it</Link>.
              </>
            )}
          </p>
          <p className={state.next_mould_before === null ? undefined : "due"}>
            The moulds last it with a chance of <b>{quantity(state.chance, "share", system)}</b>, an
            estimate.
            {state.next_mould_before !== null && state.next_mould_from && (
              <>
                {" "}
                Have another one ready before cast {state.done + state.next_mould_before}: begin it
                by <b>{day(state.next_mould_from)}</b>.
              </>
            )}
          </p>
        </>
      )}
      <table className="beside">
        <caption>Moulds, in rotation</caption>
        <thead>
          <tr>
            <th scope="col">Mould</th>
            <th scope="col">Casts so far</th>
            <th scope="col">Of this run still</th>
          </tr>
        </thead>
        <tbody>
          {state.moulds.map((one) => (
            <tr key={one.id}>
              <th scope="row">
                <Link to={`/moulds/${one.id}`}>{one.name}</Link>
              </th>
              <td>
                {one.casts} of {one.expected}
              </td>
              <td>
                <b>{one.to_make}</b>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
