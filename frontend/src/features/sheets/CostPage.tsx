import { useQuery } from "@tanstack/react-query";
import { Button, Input, InputNumber, Select } from "antd";
import { useState } from "react";
import { Link, useParams } from "react-router";

import type { CastSheet, Cost, CostLine, Workshop } from "../../api/client";
import { counted, duration, money, quantity, type QuantityKind } from "../../shared/format";
import { Failed, Loading } from "../../shared/states";
import { useUnits } from "../../shared/units";
import { workshopQuery } from "../../shared/standing";
import { mouldsQuery } from "../moulds/queries";
import { costFile, costQuery, useSetHourRate } from "./costQueries";
import { sheetQuery } from "./queries";
import { STANDS_ON } from "./standsOn";

const GROUPS: Record<CostLine["group"], string> = {
  resin: "Resin",
  mould: "Mould, shared over its life",
  consumables: "Used up",
  hours: "Hours",
};

/** What one cast of a sheet costs, and a run, opened line by line. */
export function CostPage() {
  const { id = "" } = useParams();
  const sheet = useQuery(sheetQuery(id));
  const workshop = useQuery(workshopQuery());
  const failed = [sheet, workshop].find((one) => one.isError);
  if (failed?.error) return <Failed error={failed.error} retry={() => void failed.refetch()} />;
  if (!sheet.data || !workshop.data) return <Loading what="the sheet" />;
  return <CostOf sheet={sheet.data} workshop={workshop.data} />;
}

function CostOf({ sheet, workshop }: { sheet: CastSheet; workshop: Workshop }) {
  const moulds = useQuery(mouldsQuery());
  const fitting = (moulds.data ?? []).filter((one) => one.piece_id === sheet.piece_id);
  const [casts, setCasts] = useState(10);
  const [chosen, setChosen] = useState<string | null>(null);
  const mouldId = chosen === null ? (fitting[0]?.id ?? null) : chosen || null;
  const cost = useQuery({
    ...costQuery(sheet.id, casts, mouldId),
    enabled: !moulds.isPending,
  });
  return (
    <section className="page">
      <header>
        <h1>What “{sheet.name}” costs</h1>
        <span className="actions">
          <Button href={costFile(sheet.id, casts, mouldId)}>As CSV</Button>
          <Link className="ant-btn big-link" to={`/sheets/${sheet.id}`}>
            Back to the sheet
          </Link>
        </span>
      </header>
      <div className="cost">
        <aside className="asked" aria-label="What is asked">
          <div className="field">
            <label htmlFor="cost-casts">Casts in the run</label>
            <InputNumber
              id="cost-casts"
              min={1}
              max={1000}
              precision={0}
              value={casts}
              onChange={(value) => setCasts(value ?? 1)}
            />
          </div>
          <div className="field">
            <label htmlFor="cost-mould">Out of the mould</label>
            <Select
              id="cost-mould"
              showSearch
              optionFilterProp="label"
              value={mouldId ?? ""}
              onChange={setChosen}
              options={[
                { value: "", label: "leave the mould out" },
                ...fitting.map((one) => ({ value: one.id, label: one.name })),
              ]}
            />
            {moulds.data && fitting.length === 0 && (
              <div className="hint">
                No mould of this piece yet: <Link to="/moulds">say how one is built</Link>, and the
                casts will share it.
              </div>
            )}
          </div>
          <HourField key={workshop.hour_rate} workshop={workshop} />
        </aside>
        <div aria-busy={cost.isFetching}>
          {cost.error && <Failed error={cost.error} />}
          {cost.isPending && !cost.error && <Loading what="the cost" />}
          {cost.data && <CostTable cost={cost.data} currency={workshop.currency} />}
        </div>
      </div>
    </section>
  );
}

function HourField({ workshop }: { workshop: Workshop }) {
  const [text, setText] = useState(workshop.hour_rate);
  const set = useSetHourRate();
  const changed = text.trim().replace(",", ".") !== workshop.hour_rate;
  return (
    <form
      className="field"
      onSubmit={(event) => {
        event.preventDefault();
        if (changed) set.mutate(text.trim().replace(",", "."));
      }}
    >
      <label htmlFor="hour-rate">An hour of work, {workshop.currency}</label>
      <Input
        id="hour-rate"
        value={text}
        inputMode="decimal"
        autoComplete="off"
        status={set.isError ? "error" : ""}
        onChange={(event) => setText(event.target.value)}
      />
      {!workshop.hour_rate_is_own && <div className="hint">Assumed; give your own.</div>}
      {set.error && <Failed error={set.error} />}
      <Button size="small" htmlType="submit" disabled={!changed} loading={set.isPending}>
        Save this rate
      </Button>
    </form>
  );
}

function CostTable({ cost, currency }: { cost: Cost; currency: string }) {
  const groups = Object.keys(GROUPS) as CostLine["group"][];
  return (
    <>
      <div className="cost-head">
        <p className="why-figure" data-figure="cost-each">
          {money(cost.each, currency)} <small>one cast</small>
        </p>
        <p className="why-figure" data-figure="cost-run">
          {money(cost.run, currency)} <small>{counted(cost.casts, "cast")}</small>
        </p>
        <p className="faint">{STANDS_ON[cost.stands_on]}</p>
        {cost.moulds > 1 && (
          <p className="due">The run wears out moulds: {cost.moulds} of them are needed.</p>
        )}
      </div>
      <table className="cost-lines">
        <thead>
          <tr>
            <th scope="col">For</th>
            <th scope="col">Takes</th>
            <th scope="col">At</th>
            <th scope="col">One cast</th>
            <th scope="col">The run</th>
          </tr>
        </thead>
        {groups.map((group) => (
          <GroupRows
            key={group}
            title={GROUPS[group]}
            lines={cost.lines.filter((line) => line.group === group)}
          />
        ))}
        <tfoot>
          <tr>
            <th scope="row" colSpan={3}>
              Together
            </th>
            <td>{cost.each}</td>
            <td>{cost.run}</td>
          </tr>
        </tfoot>
      </table>
      <p className="faint">
        Estimates of grams and hours; a line is rounded to the cent once, and the sums are those of
        the lines as they stand here.
      </p>
    </>
  );
}

function GroupRows({ title, lines }: { title: string; lines: CostLine[] }) {
  const system = useUnits((state) => state.system);
  if (lines.length === 0) return null;
  return (
    <tbody>
      <tr>
        <th scope="rowgroup" colSpan={5}>
          {title}
        </th>
      </tr>
      {lines.map((line) => (
        <tr key={line.id}>
          <td>{line.label}</td>
          <td>
            {line.quantity.unit === "s"
              ? duration(line.quantity.value)
              : quantity(line.quantity.value, line.quantity.unit as QuantityKind, system)}
            {line.shared_by > 1 && <small> for {counted(line.shared_by, "cast")}</small>}
          </td>
          <td>
            {Number(line.rate.amount).toFixed(2)} / {line.rate.per}{" "}
            <small>{line.rate.source}</small>
          </td>
          <td>{line.each}</td>
          <td>{line.run}</td>
        </tr>
      ))}
    </tbody>
  );
}
