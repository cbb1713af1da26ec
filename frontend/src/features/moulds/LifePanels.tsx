import { useQuery } from "@tanstack/react-query";
import { Button, Checkbox, Input } from "antd";
import { useState } from "react";

import type { Mould, MouldEventKind } from "../../api/client";
import { useNotices } from "../../shared/Notices";
import { bound, day, money, quantity, counted, withUnit } from "../../shared/format";
import { useUnits } from "../../shared/units";
import { workshopQuery } from "../../shared/standing";
import { lifeQuery } from "../log/learnedQueries";
import { useMouldEvent, useRetireMould, useTickCheck } from "./queries";

const WORDS: Record<MouldEventKind, string> = {
  cast: "a cast came out",
  tear: "it tore",
  repair: "it was mended",
  haze: "it went dull",
  swell: "it swelled",
};

/** What to make sure of before each cast; a cast clears the ticks. */
export function ChecksPanel({ mould }: { mould: Mould }) {
  const tick = useTickCheck(mould.id);
  const refuse = useNotices((state) => state.refuse);
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
              tick.mutate({ check: check.id, done: event.target.checked }, { onError: refuse })
            }
          >
            {check.title}
          </Checkbox>
          <p className="faint">{bound(check.reason)}</p>
        </div>
      ))}
    </section>
  );
}

const WIDTH = 320;
const HEIGHT = 90;

/** How many casts it will still make: by the workshop's own moulds and what is known of all. */
function HowLong({ mould }: { mould: Mould }) {
  const life = useQuery(lifeQuery(mould.id));
  const workshop = useQuery(workshopQuery());
  const system = useUnits((state) => state.system);
  if (!life.data) return null;
  const { chances, surely, likely, mean_life, moulds, ended, casts } = life.data;
  const whole = (value: number) => Math.round(value);
  const last = chances[chances.length - 1]?.casts ?? 1;
  const x = (at: number) => ((at - casts) / Math.max(last - casts, 1)) * WIDTH;
  const y = (chance: number) => HEIGHT - chance * HEIGHT;
  return (
    <>
      {!mould.retired_at && (
        <p>
          It makes <b>{whole(surely)} more</b> with a chance of 80&nbsp;%, and {whole(likely)} with
          one of 50&nbsp;%.
        </p>
      )}
      <figure className="life-curve">
        <svg
          viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
          role="img"
          aria-label={`Chance that it lasts: ${whole(surely)} more casts with 80\u00a0%, ${whole(likely)} with 50\u00a0%`}
        >
          <line className="rule" x1={0} x2={WIDTH} y1={y(0.8)} y2={y(0.8)} />
          <line className="rule" x1={0} x2={WIDTH} y1={y(0.5)} y2={y(0.5)} />
          <polyline points={chances.map((one) => `${x(one.casts)},${y(one.chance)}`).join(" ")} />
        </svg>
        <figcaption>
          <span>now, cast {casts}</span>
          <span>cast {whole(last)}</span>
        </figcaption>
      </figure>
      <p className="faint">
        Chance that it lasts; lines at 80 and 50&nbsp;%. An estimate from {moulds} of your moulds,{" "}
        {ended} of them worn out, beside what was expected of each. Such moulds make{" "}
        {whole(mean_life.low)} to {withUnit(whole(mean_life.high), "casts")} in the mean.
        {life.data.cost_per_cast && (
          <>
            {" "}
            A cast&apos;s share of this mould, with shell and hours, as it will likely be:{" "}
            {money(life.data.cost_per_cast, workshop.data?.currency ?? "")}.
          </>
        )}
        {life.data.warmest_k !== null && (
          <> Warmest room it was cast in: {quantity(life.data.warmest_k, "K", system)}.</>
        )}
        {life.data.stretch_used !== null && (
          <>
            {" "}
            To let go, it takes {quantity(life.data.stretch_used, "share", system)} of the stretch
            its rubber bears.
          </>
        )}
      </p>
    </>
  );
}

/** Casts so far, tears and repairs, and its end. */
export function LifePanel({ mould }: { mould: Mould }) {
  const happened = useMouldEvent(mould.id);
  const retire = useRetireMould(mould.id);
  const refuse = useNotices((state) => state.refuse);
  const [note, setNote] = useState("");
  const write = (kind: MouldEventKind) =>
    happened.mutate({ kind, note }, { onSuccess: () => setNote(""), onError: refuse });
  return (
    <section className="card" aria-label="Its life">
      <h2>Its life</h2>
      <p className="why-figure" data-figure="casts">
        {mould.casts_so_far} <small>of {counted(mould.life_casts, "cast")} expected</small>
      </p>
      {mould.retired_at && <p className="due">Retired on {day(mould.retired_at)}.</p>}
      <HowLong mould={mould} />
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
            <Button onClick={() => write("haze")}>It went dull</Button>
            <Button onClick={() => write("swell")}>It has swollen</Button>
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
        onClick={() => retire.mutate(!mould.retired_at, { onError: refuse })}
      >
        {mould.retired_at ? "Put it back into use" : "Retire it"}
      </Button>
    </section>
  );
}
