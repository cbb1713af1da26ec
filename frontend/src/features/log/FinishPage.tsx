import { useQuery } from "@tanstack/react-query";
import { Button, Input, Select } from "antd";
import { useState } from "react";
import { Link, useParams } from "react-router";

import type { Finish, FinishStepState, FinishWish } from "../../api/client";
import { useNotices } from "../../shared/Notices";
import { bound, carried, clockTime, day, duration, quantity } from "../../shared/format";
import { Failed, Loading } from "../../shared/states";
import { useUnits } from "../../shared/units";
import { fieldOf, withOffset } from "../../shared/when";
import { FinishFields, NO_FINISH, type Finished } from "../today/FinishFields";
import { finishQuery, useSetFinish, useTickTask, useWeighTrimmed } from "../today/queries";

/** The finish of one cast: the next step, all steps with their clocks and cautions, its weight. */
export function FinishPage() {
  const { id = "" } = useParams();
  const finish = useQuery(finishQuery(id));
  if (finish.isPending) return <Loading what="the finish" />;
  if (finish.isError) return <Failed error={finish.error} retry={() => void finish.refetch()} />;
  const told = finish.data;
  return (
    <section className="page">
      <header>
        <h1>{told.title}: finish</h1>
        <Link to={`/log/${told.pour_id}`}>The pour</Link>
        <Link to="/today">Today</Link>
      </header>
      <div className="today">
        <div>{told.wish ? <Steps finish={told} /> : <NoneYet />}</div>
        <aside aria-label="The cast">
          <Paint finish={told} />
          <Weight finish={told} />
          <Wishes key={told.job_id ?? "none"} finish={told} />
        </aside>
      </div>
    </section>
  );
}

function NoneYet() {
  return (
    <section className="card now" aria-label="Now">
      <p className="now-title">No finish is planned.</p>
      <p className="faint">
        Choose its finish: paint, openings, visor. The steps then stand in the days, each with what
        it waits for and how to stay safe at it.
      </p>
    </section>
  );
}

function Steps({ finish }: { finish: Finish }) {
  const next = finish.steps.find((one) => !one.done);
  return (
    <>
      {next ? (
        <NextStep state={next} />
      ) : (
        <section className="card now" aria-label="Now">
          <p className="now-title">Finished.</p>
        </section>
      )}
      <ol className="finish-steps">
        {finish.steps.map((state) => (
          <StepRow key={state.step.id} state={state} finish={finish} isNext={state === next} />
        ))}
      </ol>
    </>
  );
}

function NextStep({ state }: { state: FinishStepState }) {
  const { step } = state;
  return (
    <section className="card now" aria-label={`Next: ${step.title}`}>
      <p className="now-title">{bound(step.title)}</p>
      <When state={state} />
      {step.tools && <p className="now-job">{step.tools}</p>}
      {step.note && (
        <p>
          <b>{bound(step.note)}</b>
        </p>
      )}
      {step.why && <p className="faint">{bound(step.why)}</p>}
      {state.closes && (
        <p className="window">
          Begin by <b>{clockTime(state.closes)}</b>, {day(state.closes)}: later it has to be scuffed
          first.
        </p>
      )}
      <Cautions state={state} />
      <StepTicks state={state} />
    </section>
  );
}

function When({ state }: { state: FinishStepState }) {
  if (!state.starts) return <p className="now-clock">not planned yet</p>;
  const isToday = new Date(state.starts).toDateString() === new Date().toDateString();
  return (
    <p className="now-clock">
      {state.begun ? "since " : state.may_begin ? "may begin; planned " : "not before "}
      <b>{clockTime(state.starts)}</b> {!isToday && day(state.starts)}
      <span className="faint"> {duration(Math.round(state.step.hands_s / 60) * 60)}</span>
    </p>
  );
}

function Cautions({ state }: { state: FinishStepState }) {
  if (state.step.cautions.length === 0) return null;
  return (
    <ul className="cautions">
      {state.step.cautions.map((one) => (
        <li key={one}>{bound(one)}</li>
      ))}
    </ul>
  );
}

function StepTicks({ state }: { state: FinishStepState }) {
  const tick = useTickTask();
  const refuse = useNotices((state) => state.refuse);
  const send = (what: "begun" | "done" | "undone") =>
    tick.mutate({ task: state.task, what }, { onError: refuse });
  return (
    <span className="actions">
      {!state.begun && (
        <Button size="large" disabled={!state.may_begin} onClick={() => send("begun")}>
          Start
        </Button>
      )}
      <Button
        type="primary"
        size="large"
        className="press-now"
        disabled={!state.may_begin && !state.begun}
        loading={tick.isPending}
        onClick={() => send("done")}
      >
        Done
      </Button>
      {state.begun && (
        <Button size="large" onClick={() => send("undone")}>
          Undo start
        </Button>
      )}
    </span>
  );
}

interface StepRowProperties {
  state: FinishStepState;
  finish: Finish;
  isNext: boolean;
}

function StepRow({ state, finish, isNext }: StepRowProperties) {
  const { step } = state;
  const set = useSetFinish(finish.pour_id);
  const tick = useTickTask();
  const onError = useNotices((state) => state.refuse);
  function leaveOut() {
    if (!finish.wish) return;
    const isOwn = step.id.startsWith("own-");
    const wish: FinishWish = {
      ...NO_FINISH.wish,
      ...finish.wish,
      dropped: isOwn ? [...(finish.wish.dropped ?? [])] : [...(finish.wish.dropped ?? []), step.id],
      own: (finish.wish.own ?? []).filter((_, at) => step.id !== `own-${at + 1}`),
    };
    set.mutate({ finish: wish, release: finish.release, due: finish.due }, { onError });
  }
  return (
    <li className={state.done ? "done" : isNext ? "next-step" : ""}>
      <span className="finish-when">
        {state.done ? "done" : state.starts ? clockTime(state.starts) : ""}
        {!state.done && state.starts && <small>{day(state.starts)}</small>}
      </span>
      <span>
        <b>{bound(step.title)}</b>
        {!state.done && step.tools && <span className="faint"> {step.tools}</span>}
        {!state.done && step.note && <em> {bound(step.note)}</em>}
      </span>
      {state.done ? (
        <Button
          size="small"
          aria-label={`Undo: ${step.title}`}
          onClick={() => tick.mutate({ task: state.task, what: "undone" }, { onError })}
        >
          Undo
        </Button>
      ) : (
        <Button size="small" aria-label={`Leave out: ${step.title}`} onClick={leaveOut}>
          Leave out
        </Button>
      )}
    </li>
  );
}

/** Whether paint may go on, and what it waits for. */
function Paint({ finish }: { finish: Finish }) {
  if (!finish.wish || finish.wish.paint === "none") return null;
  const primer = finish.steps.find((one) => one.step.id === "primer");
  if (!primer || primer.done) return null;
  return (
    <section className="card" aria-label="Ready for paint">
      <h2>{finish.blocks.length === 0 ? "Ready for primer" : "Not ready for primer"}</h2>
      <ul className="moves">
        {finish.blocks.map((one) => (
          <li key={one.id}>{one.text}</li>
        ))}
      </ul>
      <p className="faint">
        Cured through about {clockTime(finish.cured_at)}, {day(finish.cured_at)}; the data sheet of
        resin and primer goes before this.
      </p>
    </section>
  );
}

/** What it weighs and how much room is inside, by the plan and by the scale. */
function Weight({ finish }: { finish: Finish }) {
  const system = useUnits((state) => state.system);
  const [text, setText] = useState("");
  const weigh = useWeighTrimmed(finish.pour_id);
  const grams = Number(text.replace(",", "."));
  return (
    <section className="card" aria-label="Weight and room inside">
      <h2>Weight and room inside</h2>
      <table className="price">
        <tbody>
          <tr>
            <th scope="row">Planned</th>
            <td>{carried(finish.planned_kg, system)}</td>
          </tr>
          <tr>
            <th scope="row">As it came out</th>
            <td>{finish.cast_kg === null ? "" : carried(finish.cast_kg, system)}</td>
          </tr>
          <tr className="sum">
            <th scope="row">Trimmed</th>
            <td>
              {finish.trimmed_kg === null ? "not weighed" : carried(finish.trimmed_kg, system)}
            </td>
          </tr>
          {finish.wall_m !== null && (
            <tr>
              <th scope="row">Wall by its weight, about</th>
              <td>{quantity(finish.wall_m, "m", system)}</td>
            </tr>
          )}
        </tbody>
      </table>
      <form
        className="inline"
        aria-label="Weigh it trimmed"
        onSubmit={(event) => {
          event.preventDefault();
          if (grams > 0) weigh.mutate(grams / 1000, { onSuccess: () => setText("") });
        }}
      >
        <label htmlFor="trimmed">Trimmed, g</label>
        <Input
          id="trimmed"
          inputMode="decimal"
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
        <Button htmlType="submit" disabled={!(grams > 0)} loading={weigh.isPending}>
          Save the weight
        </Button>
      </form>
      {weigh.error && <Failed error={weigh.error} />}
      {finish.rooms.length > 0 && <Rooms finish={finish} />}
    </section>
  );
}

/** How much room each head has all round, before padding. */
function Rooms({ finish }: { finish: Finish }) {
  return (
    <>
      <h3>Room all round a head, before padding</h3>
      <ul className="rooms">
        {finish.rooms.map((one) => {
          const fit = one.weighed ?? one.planned;
          return (
            <li key={one.head}>
              <span>{one.head}</span>
              <span className={fit && fit.clearance_m < 0 ? "due" : ""}>
                <Room metres={fit?.clearance_m ?? null} />
                {fit && !fit.passes_opening && <small>does not pass the opening</small>}
                {one.weighed && one.planned && (
                  <small className="faint">
                    planned <Room metres={one.planned.clearance_m} />
                  </small>
                )}
              </span>
            </li>
          );
        })}
      </ul>
    </>
  );
}

function Room({ metres }: { metres: number | null }) {
  const system = useUnits((state) => state.system);
  if (metres === null) return null;
  const room = quantity(Math.abs(metres), "m", system);
  return <>{metres < 0 ? `${room} too tight` : room}</>;
}

/** What becomes of it, and steps of one's own; the days follow. */
function Wishes({ finish }: { finish: Finish }) {
  const [finished, setFinished] = useState<Finished>(() => ({
    wish: { ...NO_FINISH.wish, ...finish.wish },
    release: finish.release,
  }));
  const [due, setDue] = useState(finish.due ? fieldOf(new Date(finish.due)) : "");
  const set = useSetFinish(finish.pour_id);
  return (
    <form
      className="card add-job"
      aria-label="How it is finished"
      onSubmit={(event) => {
        event.preventDefault();
        set.mutate({
          // Steps that were left out or added since are kept.
          finish: {
            ...finished.wish,
            dropped: finish.wish?.dropped ?? [],
            own: finish.wish?.own ?? [],
          },
          release: finished.release,
          due: due ? withOffset(new Date(due)) : null,
        });
      }}
    >
      <h2>How it is finished</h2>
      <FinishFields value={finished} onChange={setFinished} />
      <div className="field">
        <label htmlFor="finish-due">Due</label>
        <Input
          id="finish-due"
          type="datetime-local"
          value={due}
          onChange={(event) => setDue(event.target.value)}
        />
      </div>
      <Button type="primary" htmlType="submit" loading={set.isPending}>
        {finish.wish ? "Save the finish" : "Plan the finish"}
      </Button>
      {set.error && <Failed error={set.error} />}
      {finish.wish && <OwnStep finish={finish} />}
    </form>
  );
}

/** A step that only this maker does. */
function OwnStep({ finish }: { finish: Finish }) {
  const [title, setTitle] = useState("");
  const [minutes, setMinutes] = useState("15");
  const [wait, setWait] = useState("0");
  const [after, setAfter] = useState<string | null>(null);
  const set = useSetFinish(finish.pour_id);
  const steps = finish.steps.filter((one) => !one.step.id.startsWith("own-"));
  const left = (finish.wish?.dropped ?? []).length;
  const wish: FinishWish = { ...NO_FINISH.wish, ...finish.wish };
  const send = (finishWish: FinishWish) =>
    set.mutate(
      { finish: finishWish, release: finish.release, due: finish.due },
      { onSuccess: () => setTitle("") },
    );
  return (
    <fieldset className="own-step">
      <legend>A step of your own</legend>
      <div className="field">
        <label htmlFor="own-title">What</label>
        <Input
          id="own-title"
          value={title}
          maxLength={120}
          onChange={(event) => setTitle(event.target.value)}
        />
      </div>
      <div className="field">
        <label htmlFor="own-after">After</label>
        <Select
          id="own-after"
          value={after}
          onChange={setAfter}
          options={steps.map(({ step }) => ({ value: step.id, label: step.title }))}
        />
      </div>
      <div className="field">
        <label htmlFor="own-minutes">Minutes of work</label>
        <Input
          id="own-minutes"
          inputMode="numeric"
          value={minutes}
          onChange={(event) => setMinutes(event.target.value.replace(/\D/g, ""))}
        />
      </div>
      <div className="field">
        <label htmlFor="own-wait">Minutes to wait after it</label>
        <Input
          id="own-wait"
          inputMode="numeric"
          value={wait}
          onChange={(event) => setWait(event.target.value.replace(/\D/g, ""))}
        />
      </div>
      <span className="actions">
        <Button
          disabled={!title.trim() || !after || !(Number(minutes) > 0)}
          loading={set.isPending}
          onClick={() =>
            after &&
            send({
              ...wish,
              own: [
                ...wish.own,
                {
                  title: title.trim(),
                  after,
                  hands_s: Number(minutes) * 60,
                  wait_s: Number(wait) * 60,
                },
              ],
            })
          }
        >
          Add the step
        </Button>
        {left > 0 && (
          <Button onClick={() => send({ ...wish, dropped: [] })}>
            Take {left} left out back in
          </Button>
        )}
      </span>
      {set.error && <Failed error={set.error} />}
    </fieldset>
  );
}
