import type { KeyboardEvent, PointerEvent as ReactPointerEvent } from "react";
import { useRef } from "react";

import type { BoardTask, DayBoard, Lane } from "../../api/client";
import { clockTime } from "../../shared/format";
import type { Put } from "./BoardPage";
import { marksOf, rowsOf, shareOf, type View } from "./boardTime";

/** A key moves a task by so much; a drag in steps of five minutes. [ms] */
const KEY_MS = 15 * 60_000;
const DRAG_MS = 5 * 60_000;
/** A pointer that moves less chooses. [px] */
const DRAG_FROM_PX = 4;

interface BoardLanesProperties {
  board: DayBoard;
  view: View;
  chosen: string | null;
  put: Put | null;
  onChoose: (task: string) => void;
  onPut: (put: Put) => void;
}

const KIND_WORDS: Record<string, string> = {
  person: "People",
  alone: "By itself",
  mould: "Moulds",
  place: "Places",
};

/** The lanes, with the hours above them. */
export function BoardLanes(properties: BoardLanesProperties) {
  const { board, view } = properties;
  const now = shareOf(view, Date.parse(board.at));
  return (
    <div className="board" role="group" aria-label="The days by the hour">
      <div className="board-hours" aria-hidden="true">
        {marksOf(view).map((mark) => (
          <span key={mark.at} style={{ left: `${100 * shareOf(view, mark.at)}%` }}>
            {mark.label}
          </span>
        ))}
      </div>
      {board.lanes.map((lane, at) => (
        <div key={`${lane.kind} ${lane.name}`}>
          {board.lanes[at - 1]?.kind !== lane.kind && (
            <p className="board-kind">{KIND_WORDS[lane.kind]}</p>
          )}
          <LaneRow lane={lane} now={now} {...properties} />
        </div>
      ))}
    </div>
  );
}

interface LaneRowProperties extends BoardLanesProperties {
  lane: Lane;
  now: number;
}

function LaneRow({ lane, now, board, view, chosen, put, onChoose, onPut }: LaneRowProperties) {
  const field = useRef<HTMLDivElement>(null);
  const seen = lane.blocks.filter((one) => isIn(view, one));
  const { rows, count } = rowsOf(seen);
  const tasks = new Map(board.tasks.map((one) => [one.id, one]));
  const people = board.lanes.filter((one) => one.kind === "person").map((one) => one.name);
  const shown = put !== null && tasks.get(put.task);
  const ghost =
    shown && lane.kind === "person" && (put.person === lane.name || isOf(shown, put, lane.name));
  return (
    <div className="board-lane">
      <p className="board-name">
        {lane.name}
        {lane.count > 1 && <span className="faint"> ({lane.count})</span>}
      </p>
      <div
        className="board-field"
        data-person={lane.kind === "person" ? lane.name : undefined}
        ref={field}
        style={{ height: count * 34 + 6 }}
      >
        {lane.open
          .filter((one) => isIn(view, one))
          .map((one) => (
            <span
              key={one.starts}
              className={one.title === "evening" ? "board-open evening" : "board-open"}
              style={placed(view, one)}
            />
          ))}
        {now > 0 && now < 1 && <span className="board-now" style={{ left: `${100 * now}%` }} />}
        {seen.map((block, at) => {
          const task = tasks.get(block.task);
          if (!task) return null;
          return (
            <TaskBlock
              key={block.task}
              block={block}
              task={task}
              lane={lane}
              row={rows[at] ?? 0}
              view={view}
              width={() => field.current?.clientWidth ?? 1}
              people={people}
              isChosen={chosen === task.id}
              chosenJob={chosen === null ? null : (tasks.get(chosen)?.job_title ?? null)}
              put={put?.task === task.id ? put : null}
              onChoose={onChoose}
              onPut={onPut}
            />
          );
        })}
        {ghost && (
          <span
            className="board-ghost"
            style={placed(view, {
              starts: new Date(put.starts).toISOString(),
              ends: new Date(put.starts + lengthOf(shown)).toISOString(),
            })}
          />
        )}
      </div>
    </div>
  );
}

/** Whether a task that is moved in time alone is of this person. */
function isOf(task: BoardTask, put: Put, name: string): boolean {
  return put.person === "" && task.people.includes(name);
}

function lengthOf(task: BoardTask): number {
  return Date.parse(task.ends) - Date.parse(task.starts);
}

/** Whether a stretch is on the screen, be it in part. */
function isIn(view: View, one: { starts: string; ends: string }): boolean {
  return Date.parse(one.ends) > view.from && Date.parse(one.starts) < view.to;
}

function placed(view: View, one: { starts: string; ends: string }) {
  const from = Math.max(0, shareOf(view, Date.parse(one.starts)));
  const to = Math.min(1, shareOf(view, Date.parse(one.ends)));
  return { left: `${100 * from}%`, width: `${Math.max(0, 100 * (to - from))}%` };
}

interface TaskBlockProperties {
  block: Lane["blocks"][number];
  task: BoardTask;
  lane: Lane;
  row: number;
  view: View;
  width: () => number;
  people: readonly string[];
  isChosen: boolean;
  chosenJob: string | null;
  put: Put | null;
  onChoose: (task: string) => void;
  onPut: (put: Put) => void;
}

function TaskBlock(properties: TaskBlockProperties) {
  const { block, task, lane, row, view, isChosen, onChoose } = properties;
  const moves = useMoves(properties);
  const classes = [
    "board-block",
    `of-${lane.kind}`,
    task.hands === 0 && "alone",
    task.done && "done",
    task.begun && !task.done && "begun",
    task.pinned && "pinned",
    task.missed && "missed",
    isChosen && "chosen",
    !isChosen && properties.chosenJob === task.job_title && "same-job",
  ];
  const top = row * 34 + 3;
  const hasWindow = lane.kind === "person" && task.opens !== null && task.closes !== null;
  return (
    <>
      {hasWindow && isChosen && (
        <span
          className="board-window"
          style={{ ...placed(view, { starts: task.opens ?? "", ends: task.closes ?? "" }), top }}
        />
      )}
      <button
        type="button"
        className={classes.filter(Boolean).join(" ")}
        style={{ ...placed(view, block), top }}
        title={`${block.title}, ${task.job_title}`}
        aria-label={`${clockTime(block.starts)} to ${clockTime(block.ends)}: ${block.title}, ${task.job_title}`}
        aria-pressed={isChosen}
        onClick={() => onChoose(task.id)}
        {...moves}
      >
        <span>{block.title}</span>
      </button>
    </>
  );
}

/** Drag and keys of a block of a person; what was begun stays where it is. */
function useMoves(properties: TaskBlockProperties) {
  const { task, lane, view, width, people, put, onChoose, onPut } = properties;
  const drag = useRef<{ x: number; starts: number; isMoved: boolean } | null>(null);
  if (lane.kind !== "person" || task.begun || task.hands === 0) return {};
  const starts = put?.starts ?? Date.parse(task.starts);
  const person = put?.person ?? "";

  function onKeyDown(event: KeyboardEvent) {
    const by = { ArrowLeft: -KEY_MS, ArrowRight: KEY_MS }[event.key];
    const up = { ArrowUp: -1, ArrowDown: 1 }[event.key];
    if (by === undefined && up === undefined) return;
    event.preventDefault();
    onChoose(task.id);
    if (by !== undefined) {
      onPut({ task: task.id, starts: starts + by * (event.shiftKey ? 4 : 1), person });
      return;
    }
    const at = people.indexOf(person || (task.people[0] ?? ""));
    const to = people[Math.min(people.length - 1, Math.max(0, at + (up ?? 0)))] ?? "";
    onPut({ task: task.id, starts, person: to });
  }

  function onPointerDown(event: ReactPointerEvent<HTMLButtonElement>) {
    if (event.button !== 0) return;
    drag.current = { x: event.clientX, starts, isMoved: false };
    event.currentTarget.setPointerCapture(event.pointerId);
  }

  function onPointerMove(event: ReactPointerEvent<HTMLButtonElement>) {
    const held = drag.current;
    if (!held) return;
    const byPx = event.clientX - held.x;
    if (!held.isMoved && Math.abs(byPx) < DRAG_FROM_PX) return;
    if (!held.isMoved) onChoose(task.id);
    held.isMoved = true;
    const byMs = (byPx / width()) * (view.to - view.from);
    const to = Math.round((held.starts + byMs) / DRAG_MS) * DRAG_MS;
    const under = document
      .elementsFromPoint(event.clientX, event.clientY)
      .map((one) => one.closest<HTMLElement>("[data-person]")?.dataset["person"])
      .find((name) => name !== undefined);
    const isSame = under === undefined || (person === "" && task.people.includes(under));
    onPut({ task: task.id, starts: to, person: isSame ? person : under });
  }

  function onPointerUp() {
    drag.current = null;
  }

  return { onKeyDown, onPointerDown, onPointerMove, onPointerUp, onPointerCancel: onPointerUp };
}
