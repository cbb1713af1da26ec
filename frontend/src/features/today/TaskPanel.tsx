import { useQuery } from "@tanstack/react-query";
import { Button, Select } from "antd";

import { sentenceOf, type BoardTask } from "../../api/client";
import { useNotices } from "../../shared/Notices";
import { clockTime, day, duration } from "../../shared/format";
import type { Put } from "./BoardPage";
import { tryQuery, useFreeTask, useMoveTask } from "./queries";

interface TaskPanelProperties {
  task: BoardTask;
  people: readonly string[];
  put: Put | null;
  onPut: (put: Put) => void;
  onDone: () => void;
}

/** One task of the board: when, who, its window; and what breaks where it is being put. */
export function TaskPanel({ task, people, put, onPut, onDone }: TaskPanelProperties) {
  const free = useFreeTask();
  const refuse = useNotices((state) => state.refuse);
  const length = (Date.parse(task.ends) - Date.parse(task.starts)) / 1000;
  const canMove = !task.begun && task.hands > 0;
  return (
    <section className="card" aria-label={`Chosen: ${task.title}`}>
      <h2>{task.title}</h2>
      <p className="faint">{task.job_title}</p>
      <p>
        <b className="task-clock">{clockTime(task.starts)}</b> to {clockTime(task.ends)},{" "}
        {day(task.starts)}
        <br />
        {duration(Math.round(length / 60) * 60)}
        {task.people.length > 0 && `, ${task.people.join(" and ")}`}
        {task.done ? ", done" : task.begun && ", begun"}
      </p>
      {task.opens && task.closes && (
        <p className="window">
          Begin from <b>{clockTime(task.opens)}</b> to <b>{clockTime(task.closes)}</b>
          {day(task.closes) !== day(task.starts) && `, ${day(task.closes)}`}.
        </p>
      )}
      {task.note && <p className="faint">{task.note}</p>}
      {task.pinned && (
        <Button loading={free.isPending} onClick={() => free.mutate(task.id, { onError: refuse })}>
          Plan it again
        </Button>
      )}
      {canMove && people.length > 1 && task.hands === 1 && (
        <div className="field">
          <label htmlFor="task-person">Who does it</label>
          <Select
            id="task-person"
            value={(put?.person || task.people[0]) ?? null}
            onChange={(person: string) =>
              onPut({ task: task.id, starts: put?.starts ?? Date.parse(task.starts), person })
            }
            options={people.map((name) => ({ value: name, label: name }))}
          />
        </div>
      )}
      {canMove && put?.task === task.id && <Moving put={put} onDone={onDone} />}
      {!canMove && (
        <p className="faint">
          {task.hands === 0 ? "It goes on by itself." : "It was begun and stays where it is."}
        </p>
      )}
    </section>
  );
}

/** Where a task is being put, what that breaks, and the press that puts it there. */
function Moving({ put, onDone }: { put: Put; onDone: () => void }) {
  const refuse = useNotices((state) => state.refuse);
  const move = useMoveTask();
  const body = {
    task: put.task,
    starts: new Date(put.starts).toISOString(),
    person: put.person,
  };
  const tried = useQuery(tryQuery(body));
  const breaks = tried.data?.breaks ?? [];
  return (
    <form
      className="moving"
      aria-label="Move it"
      onSubmit={(event) => {
        event.preventDefault();
        move.mutate(body, {
          onSuccess: onDone,
          onError: refuse,
        });
      }}
    >
      <p role="status">
        To <b className="task-clock">{clockTime(body.starts)}</b>, {day(body.starts)}
        {put.person && `, ${put.person}`}
      </p>
      <span className="actions">
        <Button type="primary" htmlType="submit" loading={move.isPending}>
          Put it there
        </Button>
        <Button onClick={onDone}>Leave it</Button>
      </span>
      {tried.isError && <p className="due">{sentenceOf(tried.error)}</p>}
      {tried.data && breaks.length === 0 && <p className="fits">Nothing is in the way.</p>}
      <ul className="moves">
        {breaks.map((one) => (
          <li key={one.kind + one.by + one.text} className="due">
            {one.text}
            {one.at && ` (${clockTime(one.at)}${dayBeside(one.at, body.starts)})`}
          </li>
        ))}
      </ul>
      {breaks.length > 0 && (
        <p className="faint">Put it there all the same, and what is in the way is planned again.</p>
      )}
    </form>
  );
}

/** The day of a time, where it is another one than the day beside it. */
function dayBeside(at: string, beside: string): string {
  return day(at) === day(beside) ? "" : `, ${day(at)}`;
}
