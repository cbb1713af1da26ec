import { useQuery } from "@tanstack/react-query";
import { Button, Input } from "antd";
import { Link } from "react-router";

import type { DayTask, Today } from "../../api/client";
import { useNotices } from "../../shared/Notices";
import { bound, clockTime, day } from "../../shared/format";
import { Failed, Loading } from "../../shared/states";
import { piecesQuery } from "../pieces/queries";
import { AddJob } from "./AddJob";
import { FirstSteps } from "./FirstSteps";
import { Jobs } from "./Jobs";
import { NowPanel, Setting } from "./NowPanel";
import { calendarQuery, useCalendarAddress, usePlanAgain, zone } from "./queries";
import { useReminders } from "./reminders";
import { TodayNav } from "./TodayNav";
import { useToday } from "./useToday";

/** The first station: what to do now, what comes next, what is setting by itself. */
export function TodayPage() {
  const today = useToday();
  const hasJobs = today.data === undefined || today.data.jobs.length > 0;
  const pieces = useQuery({ ...piecesQuery(), enabled: !hasJobs });
  const isNew = pieces.data?.length === 0;
  if (today.isPending) return <Loading what="today" />;
  if (today.isError) return <Failed error={today.error} retry={() => void today.refetch()} />;
  // A workshop without a piece has nothing to plan: it is told how to begin.
  if (isNew && today.data.jobs.length === 0) {
    return (
      <section className="page">
        <header>
          <h1>Today</h1>
        </header>
        <FirstSteps />
      </section>
    );
  }
  return (
    <section className="page">
      <header>
        <h1>Today</h1>
        <Tools today={today.data} />
      </header>
      <TodayNav />
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
          <Told />
        </aside>
      </div>
    </section>
  );
}

function Tools({ today }: { today: Today }) {
  const refuse = useNotices((state) => state.refuse);
  const plan = usePlanAgain();
  if (today.jobs.length === 0) return null;
  return (
    <span className="actions">
      <Link className="ant-btn big-link" to="/today/bench">
        At the bench
      </Link>
      <a
        className="ant-btn big-link"
        href={`/api/v1/days/sheet.pdf?zone=${encodeURIComponent(zone)}`}
      >
        Print the day
      </a>
      <Button loading={plan.isPending} onClick={() => plan.mutate(undefined, { onError: refuse })}>
        Plan again
      </Button>
    </span>
  );
}

/** How else the days are told: by sound and notes of this browser, and in a calendar. */
function Told() {
  const { isOn, turn } = useReminders();
  const onError = useNotices((state) => state.refuse);
  const calendar = useQuery(calendarQuery());
  const change = useCalendarAddress();
  const address = calendar.data ? `${location.origin}${calendar.data}` : null;
  return (
    <section className="card stack" aria-label="Reminders and calendar">
      <h2>Reminders and calendar</h2>
      <Button aria-pressed={isOn} onClick={() => void turn()}>
        {isOn ? "Stop reminding me here" : "Remind me here"}
      </Button>
      <p className="faint">
        {isOn
          ? "A sound, and a note where this browser may, five minutes before hands are needed."
          : "Five minutes before hands are needed, as long as a page of Mild Husk is open."}
      </p>
      {address ? (
        <>
          <label htmlFor="calendar-address">Address for your calendar program</label>
          <Input
            id="calendar-address"
            readOnly
            value={address}
            onFocus={(event) => event.target.select()}
          />
          <p className="faint">Whoever has it reads your days. A new one ends the old.</p>
          <span className="actions">
            <Button loading={change.isPending} onClick={() => change.mutate(true, { onError })}>
              New address
            </Button>
            <Button onClick={() => change.mutate(false, { onError })}>End it</Button>
          </span>
        </>
      ) : (
        <span className="actions">
          <Button loading={change.isPending} onClick={() => change.mutate(true, { onError })}>
            Make a calendar address
          </Button>
          <a href="/api/v1/days/calendar.ics">Calendar file</a>
        </span>
      )}
    </section>
  );
}

/** What moved first; the rest mostly follows it. */
const MOST_MOVES = 4;

function Moves({ today }: { today: Today }) {
  const { moves, missed, expiring } = today;
  if (moves.length + missed.length + expiring.length === 0) return null;
  return (
    <section className="card" aria-label="What moved">
      <h2>What moved</h2>
      <ul className="moves">
        {today.missed.map((title) => (
          <li key={title} className="due">
            {title}: its window has closed. Scuff what is cured before it goes on.
          </li>
        ))}
        {today.expiring.map((said) => (
          <li key={said} className="due">
            {said}, and it is planned for later. Pour it sooner, or open a fresh lot.
          </li>
        ))}
        {today.moves.slice(0, MOST_MOVES).map((move) => (
          <li key={move.title + move.job_title}>
            {move.title}, {move.job_title}: {clockTime(move.was)} → <b>{clockTime(move.now)}</b>{" "}
            <span className="faint">
              {bound(move.why)}
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
    <section aria-label="Coming up">
      <h2>Coming up</h2>
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
