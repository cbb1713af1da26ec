import { useQuery } from "@tanstack/react-query";
import { App, Button } from "antd";
import { useEffect, useState } from "react";

import { sentenceOf, type DayTask, type Today } from "../../api/client";
import { clockTime, day, duration } from "../../shared/format";
import { Failed, Loading } from "../../shared/states";
import { AddJob } from "./AddJob";
import { collisionsQuery, todayQuery, useEndJob, usePlanAgain, useTickTask } from "./queries";

/** The first station: what to do now, what comes next, what is setting by itself. */
export function TodayPage() {
  const today = useQuery(todayQuery());
  if (today.isPending) return <Loading what="today" />;
  if (today.isError) return <Failed error={today.error} retry={() => void today.refetch()} />;
  return (
    <section className="page">
      <header>
        <h1>Today</h1>
        <Tools today={today.data} />
      </header>
      <div className="today">
        <div>
          <NowPanel today={today.data} />
          <Setting tasks={today.data.setting} />
          <Moves today={today.data} />
          <ToCome tasks={today.data.to_come} />
        </div>
        <aside aria-label="Jobs">
          <Jobs today={today.data} />
          <AddJob />
        </aside>
      </div>
    </section>
  );
}

function Tools({ today }: { today: Today }) {
  const { message } = App.useApp();
  const plan = usePlanAgain();
  if (today.jobs.length === 0) return null;
  return (
    <span className="actions">
      <a className="big-link" href="/api/v1/days/calendar.ics">
        Calendar file
      </a>
      <Button
        loading={plan.isPending}
        onClick={() =>
          plan.mutate(undefined, { onError: (error) => void message.error(sentenceOf(error), 8) })
        }
      >
        Plan again
      </Button>
    </span>
  );
}

/** The time now, told again every few seconds. */
function useNow(): number {
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    const ticking = setInterval(() => setNow(Date.now()), 5_000);
    return () => clearInterval(ticking);
  }, []);
  return now;
}

/** Enter presses what is to be done now, where nothing else has the focus. */
function useEnter() {
  useEffect(() => {
    function press(event: KeyboardEvent) {
      if (event.key !== "Enter" || document.activeElement !== document.body) return;
      document.querySelector<HTMLButtonElement>(".press-now")?.click();
    }
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, []);
}

function NowPanel({ today }: { today: Today }) {
  const now = useNow();
  const { following } = today;
  useEnter();
  if (today.jobs.length === 0)
    return (
      <section className="card now" aria-label="Now">
        <p className="now-title">Nothing to do.</p>
        <p className="faint">
          Add a cast, a mould or a task of your own. The day is planned round it: what to do now,
          what cures meanwhile, when hands are needed next.
        </p>
      </section>
    );
  return (
    <>
      {today.now.map((task) => (
        <NowTask key={task.id} task={task} />
      ))}
      {today.now.length === 0 && (
        <section className="card now" aria-label="Now">
          <p className="now-title">Hands free.</p>
        </section>
      )}
      {following && (
        <section className="card next" aria-label="Next for hands">
          <h2>Next for hands</h2>
          <p className="next-clock">
            <b>{clockTime(following.starts)}</b>{" "}
            <span className="faint">{inWords(following.starts, now)}</span>
          </p>
          <p className="next-title">{following.title}</p>
          <p className="faint">{following.job_title}</p>
          <Window task={following} />
          {today.now.length === 0 && following.may_begin && <Ticks task={following} isEarly />}
        </section>
      )}
    </>
  );
}

/** How long until then, to the minute; with its day where that is another one. */
function inWords(at: string, now: number): string {
  const seconds = Date.parse(at) - now;
  if (seconds < 60_000) return "now";
  const wait = duration(Math.round(seconds / 60_000) * 60);
  const isToday = new Date(at).toDateString() === new Date(now).toDateString();
  return isToday ? `in ${wait}` : day(at);
}

function NowTask({ task }: { task: DayTask }) {
  return (
    <section className="card now" aria-label={`Now: ${task.title}`}>
      <p className="now-title">{task.title}</p>
      <p className="now-job">
        {task.job_title !== task.title && task.job_title}
        {task.people.length > 0 && <span className="faint"> {task.people.join(" and ")}</span>}
      </p>
      <p className="now-clock">
        {task.begun ? "Until " : "From "}
        <b>{clockTime(task.begun ? task.ends : task.starts)}</b>
        {!task.begun && <> to {clockTime(task.ends)}</>}
        {task.late_s >= 300 && (
          <span className="due"> {duration(Math.round(task.late_s / 60) * 60)} late</span>
        )}
      </p>
      <Window task={task} />
      {task.note && <p className="faint">{task.note}</p>}
      <Ticks task={task} />
    </section>
  );
}

function Window({ task }: { task: DayTask }) {
  if (!task.latest) return null;
  return (
    <p className="window">
      Begin by <b>{clockTime(task.latest)}</b>: then it is too late for it to bond.
    </p>
  );
}

function Ticks({ task, isEarly = false }: { task: DayTask; isEarly?: boolean }) {
  const { message } = App.useApp();
  const tick = useTickTask();
  const send = (what: "begun" | "done" | "undone") =>
    tick.mutate(
      { task: task.id, what },
      { onError: (error) => void message.error(sentenceOf(error), 8) },
    );
  if (isEarly)
    return (
      <Button size="large" loading={tick.isPending} onClick={() => send("begun")}>
        Start now
      </Button>
    );
  return (
    <span className="actions">
      {task.begun ? (
        <>
          <Button
            type="primary"
            size="large"
            className="press-now"
            loading={tick.isPending}
            onClick={() => send("done")}
          >
            Done
          </Button>
          <Button size="large" onClick={() => send("undone")}>
            Undo start
          </Button>
        </>
      ) : (
        <>
          <Button
            type="primary"
            size="large"
            className="press-now"
            loading={tick.isPending}
            onClick={() => send("begun")}
          >
            Start
          </Button>
          <Button size="large" onClick={() => send("done")}>
            Done already
          </Button>
        </>
      )}
    </span>
  );
}

function Setting({ tasks }: { tasks: readonly DayTask[] }) {
  const now = useNow();
  if (tasks.length === 0) return null;
  return (
    <section className="card" aria-label="Setting by itself">
      <h2>Setting by itself</h2>
      <ul className="setting">
        {tasks.map((task) => (
          <li key={task.id}>
            <b>{clockTime(task.ends)}</b> <span className="faint">{inWords(task.ends, now)}</span>{" "}
            {task.title}, {task.job_title}
          </li>
        ))}
      </ul>
    </section>
  );
}

/** What moved first; the rest mostly follows it. */
const MOST_MOVES = 4;

function Moves({ today }: { today: Today }) {
  if (today.moves.length === 0 && today.missed.length === 0) return null;
  return (
    <section className="card" aria-label="What moved">
      <h2>What moved</h2>
      <ul className="moves">
        {today.missed.map((title) => (
          <li key={title} className="due">
            {title}: its window has closed. Scuff what is cured before it goes on.
          </li>
        ))}
        {today.moves.slice(0, MOST_MOVES).map((move) => (
          <li key={move.title + move.job_title}>
            {move.title}, {move.job_title}: {clockTime(move.was)} → <b>{clockTime(move.now)}</b>{" "}
            <span className="faint">
              {move.why}
              {move.by && ` (${move.by})`}
            </span>
          </li>
        ))}
        {today.moves.length > MOST_MOVES && (
          <li className="faint">and {today.moves.length - MOST_MOVES} more that follow them</li>
        )}
      </ul>
    </section>
  );
}

function ToCome({ tasks }: { tasks: readonly DayTask[] }) {
  if (tasks.length === 0) return null;
  return (
    <section aria-label="To come">
      <h2>To come</h2>
      <table className="coats to-come">
        <thead>
          <tr>
            <th scope="col">Begin</th>
            <th scope="col">End</th>
            <th scope="col">What</th>
            <th scope="col">For</th>
            <th scope="col">Who</th>
          </tr>
        </thead>
        <tbody>
          {tasks.map((task, at) => {
            const before = tasks[at - 1];
            const fresh = !before || day(before.starts) !== day(task.starts);
            return (
              <tr key={task.id} className={task.hands === 0 ? "faint" : ""}>
                <td>
                  {fresh && <div className="faint">{day(task.starts)}</div>}
                  <b>{clockTime(task.starts)}</b>
                </td>
                <td>{clockTime(task.ends)}</td>
                <th scope="row">{task.title}</th>
                <td>{task.job_title}</td>
                <td>{task.hands === 0 ? "by itself" : task.people.join(", ")}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </section>
  );
}

function Jobs({ today }: { today: Today }) {
  const end = useEndJob();
  const { message } = App.useApp();
  if (today.jobs.length === 0) return null;
  return (
    <section className="card" aria-label="Jobs that are planned">
      <h2>Jobs</h2>
      {!today.planned && <p className="due">Something is not planned yet: plan again.</p>}
      {today.standing === "none" && (
        <p className="due">Nothing fits: the working hours leave no room. Open longer, or later.</p>
      )}
      {today.evenings > 0 && (
        <p>
          {today.evenings} {today.evenings === 1 ? "evening" : "evenings"} given up.
        </p>
      )}
      {today.jobs.some((job) => job.late_s > 0) && <WaysOut />}
      <ul className="jobs-in-days">
        {today.jobs.map((job) => (
          <li key={job.id}>
            <span>
              <b>{job.title}</b>
              <br />
              {job.ends ? (
                <span className="faint">
                  done by {day(job.ends)}, {clockTime(job.ends)}
                </span>
              ) : (
                <span className="faint">not planned</span>
              )}
              {job.late_s > 0 && (
                <span className="due"> {duration(Math.round(job.late_s / 60) * 60)} late</span>
              )}
            </span>
            <Button
              size="small"
              aria-label={`Take off: ${job.title}`}
              onClick={() =>
                end.mutate(job.id, { onError: (error) => void message.error(sentenceOf(error), 8) })
              }
            >
              Take off
            </Button>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** Which wishes cannot be kept together, and the changes that free them; asked for by a press. */
function WaysOut() {
  const [isAsked, setIsAsked] = useState(false);
  const found = useQuery(collisionsQuery(isAsked));
  if (!isAsked)
    return <Button onClick={() => setIsAsked(true)}>What would keep it in time?</Button>;
  if (found.isPending) return <Loading what="what could be changed" />;
  if (found.isError) return <Failed error={found.error} retry={() => void found.refetch()} />;
  return (
    <div role="status" className="ways-out">
      {found.data.collides.length > 0 && (
        <p>
          {found.data.collides.length === 1 ? "Cannot be kept: " : "Cannot be kept together: "}
          {found.data.collides.join("; ")}.
        </p>
      )}
      {found.data.ways_out.length === 0 && <p>Nothing that was tried keeps it in time.</p>}
      <ul className="moves">
        {found.data.ways_out.map((one) => (
          <li key={one.kind + one.text}>
            <b>{one.text}</b>{" "}
            <span className="faint">
              done by {day(one.ends)}, {clockTime(one.ends)}
            </span>
          </li>
        ))}
      </ul>
    </div>
  );
}
