import { useQuery } from "@tanstack/react-query";
import { Button, Input } from "antd";
import { useState } from "react";
import { Link, useParams } from "react-router";

import type { Pour, PouredCoat } from "../../api/client";
import {
  carried,
  clockSeconds,
  clockTime,
  day,
  duration,
  number,
  quantity,
} from "../../shared/format";
import { useNotices } from "../../shared/Notices";
import { useConfirm } from "../../shared/Question";
import { Failed, Loading } from "../../shared/states";
import { useUnits } from "../../shared/units";
import { pourQuery, useClosePour, useEditNote } from "../pour/queries";
import { CastPanel } from "./CastPanel";
import { FaultsPanel } from "./FaultsPanel";
import { STATUS_WORDS } from "./LogPage";
import { Pictures } from "./PicturesPanel";
import { PouredWalls } from "./PouredWalls";
import { ReadingsPanel } from "./ReadingsPanel";

export function LogEntryPage() {
  const { id = "" } = useParams();
  const pour = useQuery(pourQuery(id));
  if (pour.isPending) return <Loading what="the pour" />;
  if (pour.isError) return <Failed error={pour.error} retry={() => void pour.refetch()} />;
  return <Entry key={pour.data.id} pour={pour.data} />;
}

function Entry({ pour }: { pour: Pour }) {
  return (
    <section className="page">
      <header>
        <h1>
          {pour.sheet_name}, {day(pour.started_at)}
        </h1>
        <Link to={`/sheets/${pour.sheet_id}/learned`}>What your pours taught</Link>
        {pour.status === "cast" && <Link to={`/log/${pour.id}/finish`}>Finish</Link>}
        {pour.status === "open" && <OpenActions pour={pour} />}
      </header>
      <p className="lead">
        {pour.piece_name} in {pour.resin_name}, begun {clockTime(pour.started_at)}
        {pour.closed_at && <>, closed {clockTime(pour.closed_at)}</>}:{" "}
        <b>{STATUS_WORDS[pour.status]}</b>.
      </p>
      {pour.status !== "open" && <CastPanel pour={pour} />}
      <Summary pour={pour} />
      <CoatRows pour={pour} />
      {pour.status === "cast" && <ReadingsPanel pour={pour} />}
      {pour.status !== "open" && <PouredWalls pour={pour} />}
      {pour.status !== "open" && <FaultsPanel pour={pour} />}
      {pour.status !== "open" && (
        <section aria-labelledby="pictures">
          <h2 id="pictures">Pictures</h2>
          <Pictures pour={pour.id} />
        </section>
      )}
      <Note pour={pour} />
    </section>
  );
}

function OpenActions({ pour }: { pour: Pour }) {
  const close = useClosePour(pour.id);
  const confirm = useConfirm();
  const refuse = useNotices((state) => state.refuse);

  function spoilt() {
    confirm({
      title: "Close this pour as spoilt?",
      content: "What was weighed and when stays in the log.",
      ok: "Close as spoilt",
      onOk: () =>
        close.mutateAsync({ status: "spoilt", cast_kg: null, note: pour.note }).catch(refuse),
    });
  }

  return (
    <span className="actions">
      <Button onClick={spoilt}>It is spoilt</Button>
      <Link className="ant-btn big-link" to={`/pour/${pour.id}`}>
        Back to the bench
      </Link>
    </span>
  );
}

function Summary({ pour }: { pour: Pour }) {
  const system = useUnits((state) => state.system);
  const { comparison } = pour;
  return (
    <table className="beside">
      <thead>
        <tr>
          <td />
          <th scope="col">Planned</th>
          <th scope="col">Actual</th>
        </tr>
      </thead>
      <tbody>
        <tr>
          <th scope="row">Resin mixed</th>
          <td>{quantity(comparison.planned_kg, "kg", system)}</td>
          <td>
            <b>{quantity(comparison.poured_kg, "kg", system)}</b>
          </td>
        </tr>
        <tr>
          <th scope="row">Weight of the cast</th>
          <td>{carried(comparison.planned_cast_kg, system)}</td>
          <td>
            <b>{comparison.cast_kg == null ? "none" : carried(comparison.cast_kg, system)}</b>
          </td>
        </tr>
        {comparison.stayed_share != null && (
          <tr>
            <th scope="row">Share of the mix in the cast</th>
            <td />
            <td>
              <b>{quantity(comparison.stayed_share, "share", system)}</b>
            </td>
          </tr>
        )}
      </tbody>
    </table>
  );
}

function CoatRows({ pour }: { pour: Pour }) {
  const system = useUnits((state) => state.system);
  const grams = (value: number | null | undefined) =>
    value == null ? "" : number(value, "kg", system);
  const time = (value: string | null | undefined) => (value ? clockSeconds(value) : "");
  const planned = (coat: PouredCoat) => pour.plan.coats[coat.number - 1];
  const isRecorded = pour.coats.some((coat) => coat.recorded_s !== null);
  return (
    <table className="beside coats stacks">
      <caption>Coat by coat; grams planned and actually weighed, and the time of each step</caption>
      <thead>
        <tr>
          <th scope="col">Coat</th>
          <th scope="col">A, planned</th>
          <th scope="col">A, actual</th>
          <th scope="col">B, planned</th>
          <th scope="col">B, actual</th>
          <th scope="col">Mixed</th>
          <th scope="col">Poured</th>
          <th scope="col">Gelled</th>
          <th scope="col">Gel expected</th>
          {isRecorded && <th scope="col">Turning recorded</th>}
        </tr>
      </thead>
      <tbody>
        {pour.coats.map((coat) => (
          <tr key={coat.number}>
            <th scope="row">
              <span className="stacks-only">Coat </span>
              {coat.number}
            </th>
            <td data-label="A, planned">{grams(planned(coat)?.parts_kg.A)}</td>
            <td data-label="A, actual">
              <b>{grams(coat.a_kg)}</b>
            </td>
            <td data-label="B, planned">{grams(planned(coat)?.parts_kg.B)}</td>
            <td data-label="B, actual">
              <b>{grams(coat.b_kg)}</b>
            </td>
            <td data-label="Mixed">{time(coat.mixed_at)}</td>
            <td data-label="Poured">{time(coat.poured_at)}</td>
            <td data-label="Gelled">{time(coat.gelled_at)}</td>
            <td data-label="Gel expected">{time(coat.times?.roll_until)}</td>
            {isRecorded && (
              <td data-label="Turning recorded">
                {coat.recorded_s !== null && (
                  <a href={`/api/v1/pours/${pour.id}/coats/${coat.number}/turning.json`} download>
                    {duration(coat.recorded_s)}
                  </a>
                )}
              </td>
            )}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Note({ pour }: { pour: Pour }) {
  const [text, setText] = useState(pour.note);
  const edit = useEditNote(pour.id);
  return (
    <form
      className="stack note"
      onSubmit={(event) => {
        event.preventDefault();
        edit.mutate(text);
      }}
    >
      <label htmlFor="note">
        <h2>Note</h2>
      </label>
      <Input.TextArea
        id="note"
        rows={3}
        value={text}
        maxLength={4000}
        placeholder="Which coat was thin, what tore, what to do otherwise next time"
        onChange={(event) => setText(event.target.value)}
      />
      {edit.error && <Failed error={edit.error} />}
      <Button htmlType="submit" disabled={text === pour.note} loading={edit.isPending}>
        Save the note
      </Button>
    </form>
  );
}
