// @vitest-environment jsdom
import { fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import type { DayTask, Today } from "../../api/client";
import { clockTime } from "../../shared/format";
import { Notices } from "../../shared/Notices";
import { aServer, inPage, leavePage, Refusal } from "../../testing/page";
import { NowPanel, Setting } from "./NowPanel";

vi.setConfig({ testTimeout: 60_000 });

const NOON = Date.parse("2026-06-01T12:00:00Z");
const at = (minutes: number) => new Date(NOON + minutes * 60_000).toISOString();

beforeEach(() => {
  vi.useFakeTimers({ toFake: ["Date"] });
  vi.setSystemTime(NOON);
});
afterEach(leavePage);

function aTask(more: Partial<DayTask> = {}): DayTask {
  return {
    id: "coat-1",
    job_id: "j",
    title: "Brush the first coat",
    job_title: "Glove for the mask",
    starts: at(0),
    ends: at(20),
    latest: null,
    begun: false,
    may_begin: true,
    hands: 1,
    late_s: 0,
    note: "",
    people: [],
    places: [],
    pour_id: null,
    pours: false,
    sheet_id: null,
    ...more,
  };
}

function aDay(more: Partial<Today> = {}): Today {
  return {
    at: at(0),
    evenings: 0,
    expiring: [],
    following: null,
    jobs: [{ id: "j" }] as unknown as Today["jobs"],
    meanwhile: [],
    missed: [],
    moves: [],
    now: [],
    planned: true,
    ready_at: null,
    setting: [],
    standing: "best" as Today["standing"],
    to_come: [],
    ...more,
  };
}

function shown(today: Today, answer: () => unknown = () => ({})) {
  const heard = aServer(answer);
  inPage(
    <>
      <NowPanel today={today} />
      <Notices />
    </>,
    "/today",
  );
  const ticks = () => heard.filter((one) => one.path.startsWith("/days/ticks"));
  return { ticks };
}

const now = () => screen.getByRole("region", { name: /^Now/ }).textContent;

describe("what is to be done now", () => {
  it("is begun, and then done, by presses that name the task", async () => {
    const { ticks } = shown(aDay({ now: [aTask()] }));
    expect(now()).toContain(`From ${clockTime(at(0))} to ${clockTime(at(20))}`);
    fireEvent.click(screen.getByRole("button", { name: "Start" }));
    await waitFor(() => expect(ticks()).toHaveLength(1));
    expect(ticks()[0]?.body).toMatchObject({ task: "coat-1", what: "begun" });
    fireEvent.click(screen.getByRole("button", { name: "Done already" }));
    await waitFor(() => expect(ticks()[1]?.body).toMatchObject({ what: "done" }));
  });

  it("that is begun shows until when, and its start is undone", async () => {
    const { ticks } = shown(aDay({ now: [aTask({ begun: true, people: ["Ilse", "Piet"] })] }));
    expect(now()).toContain(`Until ${clockTime(at(20))}`);
    expect(now()).toContain("Ilse and Piet");
    fireEvent.click(screen.getByRole("button", { name: "Undo start" }));
    await waitFor(() => expect(ticks()[0]?.body).toMatchObject({ what: "undone" }));
  });

  it.each([
    [299, null],
    [300, "5 min late"],
    [5_400, "1 h 30 min late"],
  ])("is late by %i s: says %s", (late_s, words) => {
    shown(aDay({ now: [aTask({ late_s })] }));
    const said = document.querySelector(".now-clock .due")?.textContent ?? null;
    expect(said === null ? null : said.replaceAll("\u00a0", " ").trim()).toBe(words);
  });

  it("says by when it has to begin so that it bonds", () => {
    shown(aDay({ now: [aTask({ latest: at(45) })] }));
    expect(now()).toContain(`Begin by ${clockTime(at(45))}`);
  });

  it("leads to the bench where something is poured", () => {
    shown(aDay({ now: [aTask({ pours: true, sheet_id: "s" })] }));
    const link = screen.getByRole("link", { name: "Weigh and pour" });
    expect(link.getAttribute("href")).toBe("/sheets/s/pour");
    leavePage();
    shown(aDay({ now: [aTask({ pours: true, sheet_id: "s", pour_id: "p", begun: true })] }));
    expect(screen.getByRole("link", { name: "To the bench" }).getAttribute("href")).toBe("/pour/p");
    // What is being poured ends at the bench, not here.
    expect(screen.queryByRole("button", { name: "Done" })).toBeNull();
  });

  it("leads to the steps of a finish", () => {
    shown(aDay({ now: [aTask({ pour_id: "p" })] }));
    const link = screen.getByRole("link", { name: /All steps of this finish/ });
    expect(link.getAttribute("href")).toBe("/log/p/finish");
  });

  it("that is refused says why", async () => {
    shown(aDay({ now: [aTask()] }), () => new Refusal(409, "It was begun already."));
    fireEvent.click(screen.getByRole("button", { name: "Start" }));
    await screen.findByText("It was begun already.");
  });
});

describe("keys", () => {
  const press = (key: string) => fireEvent.keyDown(document.body, { key });

  it("press the first by Enter and each by its number, but not while something is written", async () => {
    const early = aTask({ id: "strips", title: "Cut strips" });
    const { ticks } = shown(aDay({ now: [aTask()], meanwhile: [early] }));
    press("Enter");
    await waitFor(() => expect(ticks()[0]?.body).toMatchObject({ task: "coat-1" }));
    press("2");
    await waitFor(() => expect(ticks()[1]?.body).toMatchObject({ task: "strips", what: "begun" }));
    press("9");
    const field = document.createElement("input");
    document.body.append(field);
    field.focus();
    press("1");
    fireEvent.keyDown(field, { key: "Enter" });
    field.remove();
    expect(ticks()).toHaveLength(2);
  });
});

describe("free hands", () => {
  it("know when they are needed next, and may begin early", async () => {
    const following = aTask({ starts: at(95), ends: at(110) });
    const { ticks } = shown(aDay({ following }));
    expect(now()).toContain("Hands free.");
    expect(now()).toContain(`Nothing for hands before ${clockTime(at(95))}.`);
    const next = screen.getByRole("region", { name: "Next for hands" }).textContent;
    expect(next).toContain("Brush the first coat");
    expect(next).toMatch(/in 1\D*35/);
    fireEvent.click(screen.getByRole("button", { name: "Start now" }));
    await waitFor(() => expect(ticks()[0]?.body).toMatchObject({ what: "begun" }));
  });

  it("are not offered what may not begin yet", () => {
    shown(aDay({ following: aTask({ starts: at(30), may_begin: false }) }));
    expect(screen.queryByRole("button", { name: "Start now" })).toBeNull();
  });

  it("hear what sets meanwhile", () => {
    const following = aTask({ starts: at(95) });
    const setting = [aTask({ id: "gel", title: "Rubber sets", ends: at(90) })];
    shown(aDay({ following, setting }));
    expect(now()).toContain(`; rubber sets until ${clockTime(at(90))}.`);
  });

  it("are told that the workshop is closed, and what could be done all the same", () => {
    shown(aDay({ ready_at: at(600) }));
    expect(now()).toContain("Nothing fits before");
    leavePage();
    shown(aDay({ ready_at: at(600), meanwhile: [aTask()] }));
    expect(now()).toContain("If you are here, some of it can be done before.");
  });

  it("have done everything, or nothing was put in", () => {
    shown(aDay());
    expect(now()).toContain("Everything for hands is done.");
    leavePage();
    shown(aDay({ jobs: [] }));
    expect(now()).toContain("Add a cast, a mould or a task of your own.");
  });

  it("are offered three things that fit before then, not more", () => {
    const meanwhile = [1, 2, 3, 4].map((one) => aTask({ id: `${one}`, title: `Task ${one}` }));
    shown(aDay({ meanwhile, following: aTask({ starts: at(95) }) }));
    const fits = screen.getByRole("region", { name: "Fits before then" });
    expect(fits.querySelectorAll("li")).toHaveLength(3);
  });
});

describe("what sets by itself", () => {
  it("is told with its end, on another day with that day", () => {
    aServer(() => ({}));
    const tasks = [
      aTask({ id: "a", title: "Gels", ends: at(12) }),
      aTask({ id: "b", title: "Cures", ends: at(60 * 24 * 2) }),
      aTask({ id: "c", title: "Out", ends: at(0) }),
    ];
    inPage(<Setting tasks={tasks} />);
    const said = [...document.querySelectorAll("li")].map((one) => one.textContent ?? "");
    expect(said[0]).toMatch(/in 12/);
    expect(said[1]).toMatch(/3.*Jun|Jun.*3/);
    expect(said[2]).toContain("now");
  });
});
