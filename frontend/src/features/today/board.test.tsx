// @vitest-environment jsdom
import { fireEvent, screen } from "@testing-library/react";
import { useState } from "react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import type { BoardTask, DayBoard, Lane } from "../../api/client";
import { inPage, leavePage } from "../../testing/page";
import { BoardLanes } from "./BoardLanes";
import type { Put } from "./BoardPage";
import { viewOf } from "./boardTime";

const at = (clock: string) => `2026-06-01T${clock}:00.000Z`;
const MINUTE = 60_000;

beforeEach(() => {
  vi.stubEnv("TZ", "UTC");
  // The simulated browser lays nothing out.
  vi.spyOn(HTMLElement.prototype, "clientWidth", "get").mockReturnValue(600);
  HTMLElement.prototype.setPointerCapture = () => undefined;
});
afterEach(() => {
  leavePage();
  vi.restoreAllMocks();
  vi.unstubAllEnvs();
});

function task(part: Partial<BoardTask>): BoardTask {
  return {
    id: "pour",
    title: "Coat 2",
    job_title: "Beak",
    starts: at("10:00"),
    ends: at("10:30"),
    opens: null,
    closes: null,
    people: ["Mara"],
    hands: 1,
    begun: false,
    done: false,
    pinned: false,
    missed: false,
    note: "",
    ...part,
  } as BoardTask;
}

const block = (one: BoardTask) => ({
  task: one.id,
  title: one.title,
  starts: one.starts,
  ends: one.ends,
});
const lane = (kind: Lane["kind"], name: string, blocks: BoardTask[] = []): Lane =>
  ({
    kind,
    name,
    count: 1,
    open: kind === "person" ? [{ starts: at("08:00"), ends: at("18:00"), title: "open" }] : [],
    blocks: blocks.map(block),
  }) as Lane;

function aBoard(tasks: BoardTask[], lanes: Lane[]) {
  const board = { at: at("09:00"), tasks, lanes } as unknown as DayBoard;
  const view = viewOf(board, new Date(at("09:00")), "day");
  const puts: Put[] = [];
  const choices: string[] = [];
  function Board() {
    const [put, setPut] = useState<Put | null>(null);
    const [chosen, setChosen] = useState<string | null>(null);
    return (
      <BoardLanes
        board={board}
        view={view}
        chosen={chosen}
        put={put}
        onChoose={(one) => {
          choices.push(one);
          setChosen(one);
        }}
        onPut={(one) => {
          puts.push(one);
          setPut(one);
        }}
      />
    );
  }
  inPage(<Board />);
  return { view, puts, choices };
}

const clockOf = (put: Put | undefined) =>
  put && [new Date(put.starts).toISOString().slice(11, 16), put.person];
const theBlock = (title = "Coat 2") => screen.getByTitle(`${title}, Beak`);

describe("a task on the board", () => {
  const coat = task({});
  const two = () =>
    aBoard([coat], [lane("person", "Mara", [coat]), lane("person", "Jon"), lane("place", "bench")]);

  it("stands where its hours are, and is told with them to who listens", () => {
    const { view } = two();
    expect([new Date(view.from).getUTCHours(), new Date(view.to).getUTCHours()]).toEqual([7, 19]);
    // Ten o'clock is three of twelve hours; half an hour is a twenty-fourth of them.
    expect(theBlock().style.left).toBe("25%");
    expect(parseFloat(theBlock().style.width)).toBeCloseTo(100 / 24, 6);
    expect(theBlock().getAttribute("aria-label")).toMatch(/^10:00.* to 10:30.*: Coat 2, Beak$/);
  });

  it("is moved by a quarter of an hour by a key, by an hour with Shift, from where it was put", () => {
    const { puts, choices } = two();
    fireEvent.keyDown(theBlock(), { key: "ArrowRight" });
    fireEvent.keyDown(theBlock(), { key: "ArrowRight" });
    fireEvent.keyDown(theBlock(), { key: "ArrowLeft", shiftKey: true });
    expect(puts.map(clockOf)).toEqual([
      ["10:15", ""],
      ["10:30", ""],
      ["09:30", ""],
    ]);
    expect(new Set(choices)).toEqual(new Set(["pour"]));
    fireEvent.keyDown(theBlock(), { key: "Enter" });
    expect(puts.length).toBe(3);
  });

  it("is given to the next person, and to nobody beyond the last", () => {
    const { puts } = two();
    fireEvent.keyDown(theBlock(), { key: "ArrowDown" });
    fireEvent.keyDown(theBlock(), { key: "ArrowDown" });
    fireEvent.keyDown(theBlock(), { key: "ArrowUp" });
    fireEvent.keyDown(theBlock(), { key: "ArrowUp" });
    expect(puts.map((one) => one.person)).toEqual(["Jon", "Jon", "Mara", "Mara"]);
    expect(new Set(puts.map((one) => one.starts)).size).toBe(1);
  });

  it("leaves a shadow with the person it is put to", () => {
    two();
    fireEvent.keyDown(theBlock(), { key: "ArrowRight" });
    const shadow = () => document.querySelector(".board-ghost")?.closest("[data-person]");
    expect(shadow()?.getAttribute("data-person")).toBe("Mara");
    fireEvent.keyDown(theBlock(), { key: "ArrowDown" });
    expect(shadow()?.getAttribute("data-person")).toBe("Jon");
    expect(document.querySelectorAll(".board-ghost").length).toBe(1);
  });

  it("is dragged in steps of five minutes, and not by a hand that trembles", () => {
    const { puts } = two();
    document.elementsFromPoint = () => [];
    const move = (type: "pointerDown" | "pointerMove" | "pointerUp", x: number) =>
      fireEvent[type](theBlock(), { clientX: x, button: 0, pointerId: 1 });
    move("pointerDown", 300);
    move("pointerMove", 303);
    expect(puts).toEqual([]);
    // 600 px are twelve hours: 31 px are 37 minutes, which is 35 to the next five.
    move("pointerMove", 331);
    expect(clockOf(puts.at(-1))).toEqual(["10:35", ""]);
    move("pointerMove", 250);
    expect(clockOf(puts.at(-1))).toEqual(["09:00", ""]);
    move("pointerUp", 250);
    move("pointerMove", 400);
    expect(puts.length).toBe(2);
  });

  it("is dragged to whoever is under the pointer", () => {
    const { puts } = two();
    const lanes = [...document.querySelectorAll("[data-person]")];
    const over = (name: string) => {
      document.elementsFromPoint = () =>
        lanes.filter((one) => one.getAttribute("data-person") === name);
    };
    fireEvent.pointerDown(theBlock(), { clientX: 300, button: 0, pointerId: 1 });
    over("Jon");
    fireEvent.pointerMove(theBlock(), { clientX: 310, pointerId: 1 });
    expect(puts.at(-1)?.person).toBe("Jon");
    over("Mara");
    fireEvent.pointerMove(theBlock(), { clientX: 312, pointerId: 1 });
    expect(puts.at(-1)?.person).toBe("Mara");
  });

  it.each([
    ["is begun", task({ begun: true })],
    ["goes on by itself", task({ hands: 0 })],
  ])("stays where it is when it %s", (_, fixed) => {
    const { puts, choices } = aBoard([fixed], [lane("person", "Mara", [fixed])]);
    fireEvent.keyDown(theBlock(), { key: "ArrowRight" });
    expect(puts).toEqual([]);
    fireEvent.click(theBlock());
    expect(choices).toEqual(["pour"]);
  });

  it("is moved only on the lane of a person, and shows its window when it is chosen", () => {
    const windowed = task({ opens: at("09:50"), closes: at("10:20") });
    const { puts } = aBoard(
      [windowed],
      [lane("person", "Mara", [windowed]), lane("place", "machine", [windowed])],
    );
    const [mine, machine] = screen.getAllByTitle("Coat 2, Beak");
    if (!mine || !machine) throw new Error("a block is missing");
    fireEvent.keyDown(machine, { key: "ArrowRight" });
    expect(puts).toEqual([]);
    expect(document.querySelector(".board-window")).toBeNull();
    fireEvent.click(mine);
    const shown = document.querySelector<HTMLElement>(".board-window");
    expect(parseFloat(shown?.style.width ?? "")).toBeCloseTo((100 * 30) / 720, 6);
  });

  it("overlaps no other: each has a row of its own", () => {
    const other = task({ id: "b", title: "Sand", starts: at("10:15"), ends: at("10:45") });
    const later = task({ id: "c", title: "Fill", starts: at("10:30"), ends: at("10:40") });
    aBoard([coat, other, later], [lane("person", "Mara", [coat, other, later])]);
    const top = (title: string) => parseFloat(theBlock(title).style.top);
    expect(top("Sand")).toBeGreaterThan(top("Coat 2"));
    expect(top("Fill")).toBe(top("Coat 2"));
  });

  it("of another day is not drawn", () => {
    const yesterday = task({
      id: "old",
      title: "Old",
      starts: new Date(Date.parse(at("10:00")) - 1440 * MINUTE).toISOString(),
      ends: new Date(Date.parse(at("10:30")) - 1440 * MINUTE).toISOString(),
    });
    aBoard([coat, yesterday], [lane("person", "Mara", [coat, yesterday])]);
    expect(screen.queryByTitle("Old, Beak")).toBeNull();
  });
});
