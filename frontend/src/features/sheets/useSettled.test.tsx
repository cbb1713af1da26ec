// @vitest-environment jsdom
import { act, screen } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import type { SheetQuestion } from "../../api/client";
import { aServer, inPage, leavePage, type Asked } from "../../testing/page";
import { useSettled } from "./useSettled";

/** A server that settles what it is asked for, as far as a test says. */
function aWorker() {
  const state = { status: "running", share: 0.02, run: null as { id: string } | null, jobs: 0 };
  const heard = aServer(({ method, path }) => {
    if (path === "/sheets/settle") {
      if (state.run && state.status === "done") return { run: state.run, job: null };
      if (!state.run) state.jobs += 1;
      return { run: state.run, job: aJob(state.jobs || 1) };
    }
    if (method === "DELETE") {
      state.status = "cancelled";
      return aJob(state.jobs);
    }
    return aJob(Number(path.slice("/jobs/".length)));
  });
  const aJob = (id: number) => ({
    id: `${id}`,
    status: state.status,
    share: state.share,
    title: "wall",
    said: "",
  });
  const asked = (path: string, method = "POST") =>
    heard.filter((one: Asked) => one.path === path && one.method === method);
  return { state, heard, asked };
}

const question = (wall_m: number) =>
  ({ piece_id: "p", material_id: "m", wish: { wall_m } }) as SheetQuestion;

interface Properties {
  wall: number;
  wanted?: boolean;
  asKept?: boolean;
}

function Desk({ wall, wanted = true, asKept = false }: Properties) {
  const settled = useSettled(question(wall), wanted, asKept);
  return (
    <>
      <output>
        {[
          settled.run?.id ?? "none",
          settled.job?.status ?? "no job",
          settled.isAsked ? "asked" : "",
        ].join(" ")}
      </output>
      <button type="button" onClick={settled.stop}>
        stop
      </button>
    </>
  );
}

const pass = (ms: number) => act(() => vi.advanceTimersByTimeAsync(ms));
const told = () => screen.getByRole("status").textContent;

beforeEach(() => vi.useFakeTimers());
afterEach(leavePage);

describe("the wall of a plan", () => {
  it("is asked for when nothing was changed for a while", async () => {
    const { asked } = aWorker();
    const { redraw } = inPage(<Desk wall={3} />);
    await pass(600);
    redraw(<Desk wall={4} />);
    await pass(600);
    expect(asked("/sheets/settle")).toEqual([]);
    await pass(400);
    expect(asked("/sheets/settle").map((one) => (one.body as SheetQuestion).wish.wall_m)).toEqual([
      4,
    ]);
    await pass(400);
    expect(told()).toBe("none running ");
  });

  it("of a kept sheet is asked for at once", async () => {
    const { asked } = aWorker();
    inPage(<Desk wall={3} asKept />);
    expect(told()).toBe("none no job asked");
    await pass(50);
    expect(asked("/sheets/settle").length).toBe(1);
  });

  it("is not asked for where the mould is not said to be turned", async () => {
    const { heard } = aWorker();
    inPage(<Desk wall={3} wanted={false} />);
    await pass(5000);
    expect(heard).toEqual([]);
    expect(told()).toBe("none no job ");
  });

  it("shows its first look while it goes on, and what it comes to", async () => {
    const { state } = aWorker();
    inPage(<Desk wall={3} asKept />);
    await pass(400);
    expect(told()).toBe("none running ");
    Object.assign(state, { share: 0.2, run: { id: "rough" } });
    await pass(400);
    expect(told()).toBe("rough running ");
    Object.assign(state, { status: "done", share: 1, run: { id: "fine" } });
    await pass(800);
    expect(told()).toBe("fine no job ");
  });

  it("is cancelled when something else is wanted, and when somebody leaves", async () => {
    const { state, asked } = aWorker();
    const { redraw, unmount } = inPage(<Desk wall={3} asKept />);
    await pass(400);
    redraw(<Desk wall={4} />);
    await pass(50);
    expect(asked("/jobs/1", "DELETE").length).toBe(1);
    state.status = "running";
    for (let tries = 0; told() !== "none running " && tries < 50; tries += 1) await pass(100);
    expect(told()).toBe("none running ");
    unmount();
    await vi.advanceTimersByTimeAsync(50);
    expect(asked("/jobs/2", "DELETE").length).toBe(1);
  });

  it("is asked for again when one comes back to it", async () => {
    const { state, asked } = aWorker();
    const { redraw } = inPage(<Desk wall={3} asKept />);
    await pass(400);
    redraw(<Desk wall={4} />);
    await pass(50);
    state.status = "running";
    redraw(<Desk wall={3} />);
    await pass(1000);
    expect(asked("/sheets/settle").length).toBe(2);
  });

  it("is begun again when another window left the same plan, but not when it was stopped here", async () => {
    const { state, asked } = aWorker();
    inPage(<Desk wall={3} asKept />);
    await pass(400);
    state.status = "cancelled";
    await pass(400);
    expect(asked("/sheets/settle").length).toBeGreaterThan(1);
    state.status = "running";
    await pass(600);
    const before = asked("/sheets/settle").length;
    act(() => screen.getByText("stop").click());
    state.status = "cancelled";
    await pass(2000);
    expect(asked("/sheets/settle").length).toBe(before);
  });
});
