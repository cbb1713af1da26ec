import { useQuery } from "@tanstack/react-query";
import { Button, Radio } from "antd";
import { useState } from "react";

import type { BoardTask, DayBoard } from "../../api/client";
import { clockTime } from "../../shared/format";
import { Failed, Loading, Nothing } from "../../shared/states";
import { BoardLanes } from "./BoardLanes";
import { hoursOfView, viewOf, type Span, type View } from "./boardTime";
import { boardQuery } from "./queries";
import { TaskPanel } from "./TaskPanel";
import { TodayNav } from "./TodayNav";

/** Where a task is being put, before it is put there. */
export interface Put {
  task: string;
  /** [ms] */
  starts: number;
  person: string;
}

/** The board of days: by people, moulds and places; tasks are moved by hand or by keys. */
export function BoardPage() {
  const board = useQuery(boardQuery());
  return (
    <section className="page">
      <header>
        <h1>Board</h1>
      </header>
      <TodayNav />
      {board.isPending && <Loading what="the board" />}
      {board.isError && <Failed error={board.error} retry={() => void board.refetch()} />}
      {board.data?.tasks.length === 0 && (
        <Nothing>Nothing is planned. Add a job under Now; it stands here by the hour.</Nothing>
      )}
      {board.data && board.data.tasks.length > 0 && <Board board={board.data} />}
    </section>
  );
}

function Board({ board }: { board: DayBoard }) {
  const [span, setSpan] = useState<Span>("day");
  const [from, setFrom] = useState(() => new Date());
  const [chosen, setChosen] = useState<string | null>(null);
  const [put, setPut] = useState<Put | null>(null);
  const view = viewOf(board, from, span);
  const task = board.tasks.find((one) => one.id === chosen) ?? null;

  function choose(id: string) {
    setChosen(id);
    if (put?.task !== id) setPut(null);
  }

  return (
    <>
      <BoardTools span={span} setSpan={setSpan} from={from} setFrom={setFrom} view={view} />
      <div className="board-and-task">
        <BoardLanes
          board={board}
          view={view}
          chosen={chosen}
          put={put}
          onChoose={choose}
          onPut={setPut}
        />
        <aside aria-label="The task" className="task-panel">
          {task ? (
            <TaskPanel
              key={task.id}
              task={task}
              people={peopleOf(board)}
              put={put}
              onPut={setPut}
              onDone={() => setPut(null)}
            />
          ) : (
            <p className="faint">
              Choose a task. Drag it, or move it with the arrow keys: left and right by a quarter of
              an hour, up and down to another person. What that breaks is said before it is done.
            </p>
          )}
          <Legend tasks={board.tasks} />
        </aside>
      </div>
    </>
  );
}

function peopleOf(board: DayBoard): string[] {
  return board.lanes.filter((lane) => lane.kind === "person").map((lane) => lane.name);
}

interface BoardToolsProperties {
  span: Span;
  setSpan: (span: Span) => void;
  from: Date;
  setFrom: (from: Date) => void;
  view: View;
}

function BoardTools({ span, setSpan, from, setFrom, view }: BoardToolsProperties) {
  const by = span === "day" ? 1 : 7;
  const go = (days: number) => {
    const at = new Date(from);
    at.setDate(at.getDate() + days);
    setFrom(at);
  };
  const title = new Date(view.from).toLocaleDateString(undefined, {
    weekday: "long",
    day: "numeric",
    month: "long",
  });
  return (
    <div className="board-tools">
      <span className="actions">
        <Button aria-label="Earlier" onClick={() => go(-by)}>
          ‹
        </Button>
        <Button onClick={() => setFrom(new Date())}>Today</Button>
        <Button aria-label="Later" onClick={() => go(by)}>
          ›
        </Button>
      </span>
      <h2>{span === "day" ? title : `Week from ${title}`}</h2>
      <Radio.Group
        aria-label="How much is shown"
        value={span}
        onChange={(event) => setSpan(event.target.value as Span)}
        optionType="button"
        options={[
          { value: "day", label: "Day" },
          { value: "week", label: "Week" },
        ]}
      />
      <span className="faint">{hoursOfView(view)}</span>
    </div>
  );
}

/** What the marks mean; only those that are on the board. */
function Legend({ tasks }: { tasks: readonly BoardTask[] }) {
  const missed = tasks.filter((one) => one.missed);
  return (
    <>
      <ul className="board-legend">
        <li>
          <span className="swatch swatch-window" /> window in which it has to begin
        </li>
        <li>
          <span className="swatch swatch-alone" /> goes on by itself
        </li>
        <li>
          <span className="swatch swatch-done" /> done
        </li>
        {tasks.some((one) => one.pinned) && (
          <li>
            <span className="swatch swatch-pinned" /> put there by hand
          </li>
        )}
      </ul>
      {missed.map((one) => (
        <p key={one.id} className="due">
          {one.title}, {clockTime(one.starts)}: its window has closed.
        </p>
      ))}
    </>
  );
}
