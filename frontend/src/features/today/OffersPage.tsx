import { useQuery } from "@tanstack/react-query";
import { Button, Checkbox, Input, InputNumber, Select } from "antd";
import { useState } from "react";

import type { Offer, OfferWay } from "../../api/client";
import { useNotices } from "../../shared/Notices";
import { useConfirm } from "../../shared/Question";
import { clockTime, counted, day, duration, money, quantity } from "../../shared/format";
import { Failed, Loading, Nothing } from "../../shared/states";
import { useUnits } from "../../shared/units";
import { withOffset } from "../../shared/when";
import { workshopQuery } from "../../shared/standing";
import { mouldsQuery } from "../moulds/queries";
import { sheetsQuery } from "../sheets/queries";
import { FinishFields, NO_FINISH } from "./FinishFields";
import { offersQuery, useAskOffer, useDeleteOffer, useTakeOffer } from "./queries";
import { TodayNav } from "./TodayNav";

/** Can so many casts be done by a day, and at what price: asked, answered, kept. */
export function OffersPage() {
  const offers = useQuery(offersQuery());
  return (
    <section className="page">
      <header>
        <h1>Offers</h1>
      </header>
      <TodayNav />
      <div className="today">
        <div>
          {offers.isPending && <Loading what="the offers" />}
          {offers.isError && <Failed error={offers.error} retry={() => void offers.refetch()} />}
          {offers.data?.length === 0 && (
            <Nothing>
              Somebody asks for twelve by the 20th? Say how many and by when: the days, the shelf
              and your rates answer.
            </Nothing>
          )}
          {offers.data?.map((offer) => (
            <OfferCard key={offer.id} offer={offer} />
          ))}
        </div>
        <aside aria-label="New offer">
          <AskForm />
        </aside>
      </div>
    </section>
  );
}

function AskForm() {
  const sheets = useQuery(sheetsQuery());
  const moulds = useQuery(mouldsQuery());
  const ask = useAskOffer();
  const [title, setTitle] = useState("");
  const [sheetId, setSheetId] = useState<string | null>(null);
  const [mouldId, setMouldId] = useState<string | null>(null);
  const [casts, setCasts] = useState<number | null>(12);
  const [due, setDue] = useState("");
  const [isFinished, setIsFinished] = useState(false);
  const [finished, setFinished] = useState(NO_FINISH);
  const [margin, setMargin] = useState<number | null>(30);
  const [delivery, setDelivery] = useState<number | null>(3);
  const sheet = sheets.data?.find((one) => one.id === sheetId);
  const ours = (moulds.data ?? []).filter(
    (one) => one.retired_at === null && (!sheet || one.piece_id === sheet.piece_id),
  );
  const isReady = title.trim() && sheetId && due && casts;
  return (
    <form
      className="card add-job"
      aria-label="New offer"
      onSubmit={(event) => {
        event.preventDefault();
        if (!isReady) return;
        ask.mutate({
          title: title.trim(),
          sheet_id: sheetId,
          mould_id: ours.some((one) => one.id === mouldId) ? mouldId : null,
          casts,
          // By the evening of that day.
          due: withOffset(new Date(`${due}T20:00`)),
          finish: isFinished ? finished.wish : null,
          release: isFinished ? finished.release : "",
          margin: (margin ?? 0) / 100,
          delivery_days: delivery ?? 0,
        });
      }}
    >
      <h2>Can that be done?</h2>
      <div className="field">
        <label htmlFor="offer-title">For whom, or what</label>
        <Input
          id="offer-title"
          value={title}
          maxLength={100}
          onChange={(event) => setTitle(event.target.value)}
        />
      </div>
      <div className="field">
        <label htmlFor="offer-casts">How many casts</label>
        <InputNumber id="offer-casts" min={1} max={40} value={casts} onChange={setCasts} />
      </div>
      <div className="field">
        <label htmlFor="offer-sheet">By which cast sheet</label>
        <Select
          id="offer-sheet"
          showSearch
          optionFilterProp="label"
          value={sheetId}
          onChange={setSheetId}
          options={(sheets.data ?? []).map((one) => ({ value: one.id, label: one.name }))}
        />
      </div>
      <div className="field">
        <label htmlFor="offer-mould">In which mould</label>
        <Select
          id="offer-mould"
          allowClear
          value={ours.some((one) => one.id === mouldId) ? mouldId : null}
          onChange={(id) => setMouldId(id ?? null)}
          options={ours.map((one) => ({ value: one.id, label: one.name }))}
        />
      </div>
      <div className="field">
        <label htmlFor="offer-due">By the evening of</label>
        <Input
          id="offer-due"
          type="date"
          value={due}
          onChange={(event) => setDue(event.target.value)}
        />
      </div>
      <Checkbox checked={isFinished} onChange={(event) => setIsFinished(event.target.checked)}>
        With their finish
      </Checkbox>
      {isFinished && <FinishFields value={finished} onChange={setFinished} />}
      <div className="field">
        <label htmlFor="offer-margin">Margin on top of the cost, %</label>
        <InputNumber id="offer-margin" min={0} max={1000} value={margin} onChange={setMargin} />
      </div>
      <div className="field">
        <label htmlFor="offer-delivery">Days until ordered resin is here</label>
        <InputNumber id="offer-delivery" min={0} max={60} value={delivery} onChange={setDelivery} />
      </div>
      <Button type="primary" htmlType="submit" disabled={!isReady} loading={ask.isPending}>
        Get the answer
      </Button>
      {ask.isPending && <p role="status">Planning it round what stands in the days …</p>}
      {ask.error && <Failed error={ask.error} />}
    </form>
  );
}

function OfferCard({ offer }: { offer: Offer }) {
  const confirm = useConfirm();
  const refuse = useNotices((state) => state.refuse);
  const remove = useDeleteOffer(offer.id);
  const { answer, asked } = offer;
  const ask = () =>
    confirm({
      title: `Delete the offer “${offer.title}”?`,
      content: "What it put into the days stays there.",
      ok: "Delete",
      onOk: () =>
        remove.mutateAsync(undefined).catch((error: unknown) => {
          refuse(error);
        }),
    });
  return (
    <article className="card offer">
      <header>
        <h2>
          {offer.title}: {counted(asked.casts, "cast")} by {day(asked.due)}
        </h2>
        <Button size="small" aria-label={`Delete ${offer.title}`} onClick={ask}>
          Delete
        </Button>
      </header>
      <p className="faint">
        {offer.sheet_name}; answered {day(answer.at)}, {clockTime(answer.at)}
        {offer.taken_at && `; in the days since ${day(offer.taken_at)}`}
      </p>
      <div className="offer-ways">
        {answer.ways.map((way) => (
          <Way key={String(way.second_mould)} offer={offer} way={way} />
        ))}
      </div>
      {answer.untried && <p className="faint">{answer.untried}</p>}
      <Resin offer={offer} />
    </article>
  );
}

function Way({ offer, way }: { offer: Offer; way: OfferWay }) {
  const workshop = useQuery(workshopQuery());
  const take = useTakeOffer(offer.id);
  const refuse = useNotices((state) => state.refuse);
  const currency = workshop.data?.currency ?? "";
  const isInTime = way.in_time === offer.asked.casts;
  return (
    <section aria-label={way.second_mould ? "With another mould" : "As things are"}>
      <h3>{way.second_mould ? "With another mould" : "As things are"}</h3>
      {way.ends ? (
        <p className={isInTime ? "offer-verdict fits" : "offer-verdict due"}>
          {isInTime ? "Yes, by " : `${way.in_time} in time; all by `}
          {day(way.ends)}
        </p>
      ) : (
        <p className="offer-verdict due">Not within four weeks.</p>
      )}
      <p>
        {duration(Math.round(way.hands_s / 60) * 60)} of work
        {way.evenings > 0 && `, ${counted(way.evenings, "evening")} given up`}
      </p>
      <table className="price">
        <tbody>
          {way.lines.map((line) => (
            <tr key={line.text}>
              <th scope="row">{line.text}</th>
              <td>{money(line.amount, currency)}</td>
            </tr>
          ))}
          <tr className="sum">
            <th scope="row">Price</th>
            <td>{money(way.price, currency)}</td>
          </tr>
          <tr>
            <th scope="row">Each</th>
            <td>{money(way.each, currency)}</td>
          </tr>
        </tbody>
      </table>
      {!offer.taken_at && way.ends && (
        <Button
          loading={take.isPending}
          onClick={() =>
            take.mutate(way.second_mould, {
              onError: refuse,
            })
          }
        >
          Put it into the days
        </Button>
      )}
    </section>
  );
}

function Resin({ offer }: { offer: Offer }) {
  const system = useUnits((state) => state.system);
  const { answer, asked } = offer;
  return (
    <>
      <ul className="moves">
        {answer.buy.map((one) => (
          <li key={one.name}>
            {one.name}: {quantity(one.need_kg, "kg", system)} needed,{" "}
            {quantity(one.there_kg, "kg", system)} of it on the shelf
            {one.kits.length > 0 && (
              <>
                ; buy <b>{one.kits.join(", ")}</b>
              </>
            )}
          </li>
        ))}
      </ul>
      {answer.from_stock < asked.casts && (
        <p className="faint">
          {answer.from_stock === 0
            ? "No cast can be poured from the shelf"
            : `${answer.from_stock} can be poured from the shelf`}
          ; the others wait {asked.delivery_days} days for the resin.
        </p>
      )}
      <p className="faint">
        Days are an estimate: a longer look may find a sooner end. Prices are what your lots, kits
        and hour cost.
      </p>
    </>
  );
}
