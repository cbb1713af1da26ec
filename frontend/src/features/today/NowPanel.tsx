import { Button } from "antd";
import { useEffect, useState } from "react";
import { Link } from "react-router";

import type { DayTask, Today } from "../../api/client";
import { useNotices } from "../../shared/Notices";
import { clockTime, day, duration } from "../../shared/format";
import { useTickTask } from "./queries";
import { useRemind } from "./reminders";

/** The time now, told again every few seconds. */
function useNow(): number {
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    const ticking = setInterval(() => setNow(Date.now()), 5_000);
    return () => clearInterval(ticking);
  }, []);
  return now;
}

/** One key a thing: Enter presses the first, a figure the one that has it on its button. */
function useKeys() {
  useEffect(() => {
    function press(event: KeyboardEvent) {
      // What has the focus to be pressed or written in keeps its keys; a heading has none.
      const busy = "a, button, input, textarea, select, summary, dialog, [tabindex='0']";
      if (document.activeElement?.closest(busy)) return;
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      const at = event.key === "Enter" ? 1 : /^[1-9]$/.test(event.key) ? Number(event.key) : 0;
      document.querySelectorAll<HTMLElement>(".press-now, .press-early")[at - 1]?.click();
    }
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, []);
}

/** What to do now, and when hands are needed next. */
export function NowPanel({ today }: { today: Today }) {
  const now = useNow();
  const { following } = today;
  useKeys();
  useRemind(today);
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
          <Until today={today} now={now} />
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
      <Meanwhile tasks={today.meanwhile} />
    </>
  );
}

/** What a maker without anything to do wants to know: until when, and whether anybody is here. */
function Until({ today, now }: { today: Today; now: number }) {
  const { following, setting } = today;
  const first = setting[0];
  if (today.ready_at) {
    const opens = `${clockTime(today.ready_at)} ${inWords(today.ready_at, now)}`;
    return (
      <p className="faint">
        {today.meanwhile.length > 0
          ? `The workshop is closed until ${opens}. If you are here, some of it can be done before.`
          : `Nothing fits before ${opens}: the workshop is closed until then.`}
      </p>
    );
  }
  if (!following) return <p className="faint">Everything for hands is done.</p>;
  return (
    <p className="faint">
      Nothing for hands before {clockTime(following.starts)}
      {first ? `; ${first.title.toLowerCase()} until ${clockTime(first.ends)}.` : "."}
    </p>
  );
}

/** What may be begun before hands are needed next, and is over or can be put down by then. */
function Meanwhile({ tasks }: { tasks: readonly DayTask[] }) {
  if (tasks.length === 0) return null;
  return (
    <section className="card" aria-label="Fits before then">
      <h2>Fits before then</h2>
      <ul className="setting">
        {tasks.slice(0, 3).map((task) => (
          <li key={task.id} className="meanwhile">
            <span>
              {task.title}, {task.job_title}{" "}
              <span className="faint">
                {duration((Date.parse(task.ends) - Date.parse(task.starts)) / 1000)}
              </span>
            </span>
            <Ticks task={task} isEarly />
          </li>
        ))}
      </ul>
    </section>
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
      {task.pour_id && !task.pours && (
        <p>
          <Link to={`/log/${task.pour_id}/finish`}>All steps of this finish, with cautions</Link>
        </p>
      )}
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
  const refuse = useNotices((state) => state.refuse);
  const tick = useTickTask();
  const send = (what: "begun" | "done" | "undone") =>
    tick.mutate({ task: task.id, what }, { onError: refuse });
  if (task.pours && (task.pour_id ?? task.sheet_id))
    return (
      <span className="actions">
        <Link
          className="ant-btn ant-btn-primary ant-btn-variant-solid ant-btn-color-primary ant-btn-lg press-now press-link"
          to={task.pour_id ? `/pour/${task.pour_id}` : `/sheets/${task.sheet_id ?? ""}/pour`}
        >
          {task.pour_id ? "To the bench" : "Weigh and pour"}
        </Link>
        {!task.pour_id && !task.begun && (
          <Button size="large" loading={tick.isPending} onClick={() => send("begun")}>
            {isEarly ? "Start now" : "Start"}
          </Button>
        )}
        {!task.pour_id && task.begun && (
          <Button size="large" loading={tick.isPending} onClick={() => send("done")}>
            Done
          </Button>
        )}
      </span>
    );
  if (isEarly)
    return (
      <Button
        size="large"
        className="press-early"
        loading={tick.isPending}
        onClick={() => send("begun")}
      >
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

/** What goes by itself. */
export function Setting({ tasks }: { tasks: readonly DayTask[] }) {
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
