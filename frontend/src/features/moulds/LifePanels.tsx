import { App, Button, Checkbox, Input } from "antd";
import { useState } from "react";

import { sentenceOf, type Mould, type MouldEventKind } from "../../api/client";
import { day } from "../../shared/format";
import { useMouldEvent, useRetireMould, useTickCheck } from "./queries";

const WORDS: Record<MouldEventKind, string> = {
  cast: "a cast came out",
  tear: "it tore",
  repair: "it was mended",
};

/** What to make sure of before each cast; a cast clears the ticks. */
export function ChecksPanel({ mould }: { mould: Mould }) {
  const tick = useTickCheck(mould.id);
  const { message } = App.useApp();
  const left = mould.checks.filter((check) => !check.done_at).length;
  return (
    <section className="card" aria-label="Before the next cast">
      <h2>Before the next cast</h2>
      <p className={left === 0 ? "rim-verdict" : "faint"} role="status">
        {left === 0 ? "Ready to cast" : `${left} of ${mould.checks.length} left to look at.`}
      </p>
      {mould.checks.map((check) => (
        <div key={check.id} className="check">
          <Checkbox
            checked={Boolean(check.done_at)}
            onChange={(event) =>
              tick.mutate(
                { check: check.id, done: event.target.checked },
                { onError: (error) => void message.error(sentenceOf(error), 8) },
              )
            }
          >
            {check.title}
          </Checkbox>
          <p className="faint">{check.reason}</p>
        </div>
      ))}
    </section>
  );
}

/** Casts so far, tears and repairs, and its end. */
export function LifePanel({ mould }: { mould: Mould }) {
  const happened = useMouldEvent(mould.id);
  const retire = useRetireMould(mould.id);
  const { message } = App.useApp();
  const [note, setNote] = useState("");
  const say = (error: unknown) => void message.error(sentenceOf(error), 8);
  const write = (kind: MouldEventKind) =>
    happened.mutate({ kind, note }, { onSuccess: () => setNote(""), onError: say });
  return (
    <section className="card" aria-label="Its life">
      <h2>Its life</h2>
      <p className="why-figure" data-figure="casts">
        {mould.casts_so_far} <small>of {mould.life_casts} casts expected</small>
      </p>
      {mould.retired_at && <p className="due">Retired on {day(mould.retired_at)}.</p>}
      {!mould.retired_at && (
        <>
          <div className="field">
            <label htmlFor="happened">What happened, in a few words</label>
            <Input
              id="happened"
              value={note}
              maxLength={400}
              onChange={(event) => setNote(event.target.value)}
            />
          </div>
          <span className="actions">
            <Button onClick={() => write("cast")}>One more cast</Button>
            <Button onClick={() => write("tear")}>It tore</Button>
            <Button onClick={() => write("repair")}>It was mended</Button>
          </span>
        </>
      )}
      <ul className="events">
        {mould.events.slice(0, 12).map((event) => (
          <li key={event.at + event.kind}>
            {day(event.at)}: {WORDS[event.kind]}
            {event.note && `. ${event.note}`}
          </li>
        ))}
      </ul>
      <Button
        size="small"
        loading={retire.isPending}
        onClick={() => retire.mutate(!mould.retired_at, { onError: say })}
      >
        {mould.retired_at ? "Take it back into use" : "Retire it"}
      </Button>
    </section>
  );
}
