import { useQuery } from "@tanstack/react-query";
import { InputNumber } from "antd";
import { useState } from "react";

import type { BuyList } from "../../api/client";
import { money, quantity, withUnit } from "../../shared/format";
import { Failed, Loading, Nothing } from "../../shared/states";
import { useUnits } from "../../shared/units";
import { workshopQuery } from "../../shared/standing";
import { mouldsQuery } from "../moulds/queries";
import { sheetsQuery } from "../sheets/queries";
import { STANDS_ON } from "../sheets/standsOn";
import { ShelfNav } from "./ShelfNav";
import { buyQuery } from "./queries";

type Counts = Readonly<Record<string, number>>;

const wanted = (counts: Counts) => Object.entries(counts).filter(([, count]) => count > 0);

/** For the casts to come: what to take from the lots, and which kits to buy. */
export function BuyPage() {
  const sheets = useQuery(sheetsQuery());
  const moulds = useQuery(mouldsQuery());
  const [casts, setCasts] = useState<Counts>({});
  const [builds, setBuilds] = useState<Counts>({});
  const [minimum, setMinimum] = useState(0);
  const workshop = useQuery(workshopQuery());
  const asked = {
    minimum_order: minimum.toFixed(2),
    casts: wanted(casts).map(([sheet_id, count]) => ({ sheet_id, casts: count })),
    moulds: wanted(builds).map(([mould_id, count]) => ({ mould_id, count })),
  };
  const list = useQuery(buyQuery(asked));
  const nothingAsked = asked.casts.length + asked.moulds.length === 0;
  return (
    <section className="page">
      <header>
        <h1>Shelf</h1>
      </header>
      <ShelfNav />
      {sheets.isPending && <Loading what="the cast sheets" />}
      {sheets.isError && <Failed error={sheets.error} retry={() => void sheets.refetch()} />}
      {sheets.data?.length === 0 && <Nothing>No cast sheet yet: plan a cast first.</Nothing>}
      <div className="buy">
        <div>
          <h2>How many casts?</h2>
          {sheets.data?.map((sheet) => (
            <CountField
              key={sheet.id}
              id={`casts-${sheet.id}`}
              name={sheet.name}
              of={`in ${sheet.resin_name}`}
              count={casts[sheet.id] ?? 0}
              onCount={(count) => setCasts({ ...casts, [sheet.id]: count })}
            />
          ))}
          {moulds.data && moulds.data.length > 0 && <h2>How many moulds?</h2>}
          {moulds.data?.map((mould) => (
            <CountField
              key={mould.id}
              id={`moulds-${mould.id}`}
              name={mould.name}
              of={`of ${mould.rubber_name}`}
              count={builds[mould.id] ?? 0}
              onCount={(count) => setBuilds({ ...builds, [mould.id]: count })}
            />
          ))}
        </div>
        <div>
          <h2>What to take and what to buy</h2>
          <div className="count">
            <InputNumber
              id="minimum-order"
              min={0}
              max={100000}
              precision={2}
              value={minimum}
              onChange={(value) => setMinimum(value ?? 0)}
            />
            <label htmlFor="minimum-order">
              {workshop.data?.currency} <span className="faint">is the shop’s smallest order</span>
            </label>
          </div>
          {nothingAsked && <p className="faint">Say beside a sheet how many casts you want.</p>}
          {list.error && <Failed error={list.error} />}
          {!nothingAsked && list.data && <Purchases list={list.data} />}
        </div>
      </div>
    </section>
  );
}

interface CountProperties {
  id: string;
  name: string;
  of: string;
  count: number;
  onCount: (count: number) => void;
}

function CountField({ id, name, of, count, onCount }: CountProperties) {
  return (
    <div className="count">
      <InputNumber
        id={id}
        min={0}
        max={1000}
        precision={0}
        value={count}
        onChange={(value) => onCount(value ?? 0)}
      />
      <label htmlFor={id}>
        {name} <span className="faint">{of}</span>
      </label>
    </div>
  );
}

function Purchases({ list }: { list: BuyList }) {
  const system = useUnits((state) => state.system);
  const workshop = useQuery(workshopQuery());
  const currency = workshop.data?.currency ?? "";
  return (
    <>
      <p className="why-figure" data-figure="buy-cost">
        {money(list.cost, currency)}
      </p>
      {Number(list.raised_by) > 0 && (
        <p className="faint">
          Of it {money(list.raised_by, currency)} only reach the shop’s smallest order: they buy
          more of the same.
        </p>
      )}
      {Number(list.short_by) > 0 && (
        <p className="wrong">
          That is {money(list.short_by, currency)} short of the shop’s smallest order: order more
          together, or elsewhere.
        </p>
      )}
      {list.purchases.map(({ key, name, purchase: one, stands_on }) => (
        <article key={key} className="card">
          <h2>{name}</h2>
          <p>
            {quantity(one.need_kg, "kg", system)} needed
            {one.from_lots.map((lot) => (
              <span key={lot.lot}>
                , {quantity(lot.kg, "kg", system)} from “{lot.lot}”
              </span>
            ))}
            .
          </p>
          {one.kits.length > 0 && (
            <p>
              Buy{" "}
              {one.kits.map((kit, index) => (
                <b key={kit.name}>
                  {index > 0 && " and "}
                  {kit.count} × {kit.name} of {quantity(kit.mass_kg, "kg", system)}
                </b>
              ))}{" "}
              for {money(one.cost, currency)}; {quantity(one.left_over_kg, "kg", system)} are left
              over
              {one.left_over_days != null && <> and keep {one.left_over_days} days unopened</>}.
            </p>
          )}
          {stands_on && <p className="faint">{STANDS_ON[stands_on]}</p>}
          <p className="faint">
            {one.why_not_bigger} A trial kit would cover{" "}
            {quantity(one.trial_covers_kg, "kg", system)}.
          </p>
        </article>
      ))}
      {list.besides.length > 0 && (
        <article className="card">
          <h2>What else it takes</h2>
          <ul className="besides">
            {list.besides.map(({ what, amount, unit, part_of }) => (
              <li key={`${what} ${unit} ${part_of}`}>
                <b>
                  {unit === "kg"
                    ? quantity(amount, "kg", system)
                    : withUnit(amountOf(amount), unit)}
                </b>{" "}
                {what}
                {part_of && <span className="faint">, in the {part_of.toLowerCase()} above</span>}
              </li>
            ))}
          </ul>
        </article>
      )}
    </>
  );
}

/** Rolls and pieces are whole; litres are not. */
const amountOf = (amount: number) => Number(amount.toPrecision(3)).toLocaleString("en-US");
