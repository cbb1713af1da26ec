// @vitest-environment jsdom
import { act } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import type { DayTask, Today } from "../../api/client";
import { inPage, leavePage } from "../../testing/page";
import { useRemind, useReminders } from "./reminders";

const sounds: string[] = [];
vi.mock("../pour/tones", () => ({
  sound: (tone: string) => sounds.push(tone),
  allowSound: () => undefined,
}));

const NOW = Date.parse("2026-06-01T12:00:00Z");
const notes: string[] = [];

/** The browser's own notes, as far as it lets a page give them. */
class Note {
  static permission = "granted";
  static asked = 0;
  static requestPermission() {
    Note.asked += 1;
    return Promise.resolve("granted");
  }
  constructor(
    readonly title: string,
    { body }: { body: string },
  ) {
    notes.push(`${title} / ${body}`);
  }
}

const task = (id: string, minutes: number, begun = false) =>
  ({
    id,
    title: `Coat ${id}`,
    job_title: "Beak",
    begun,
    starts: new Date(NOW + minutes * 60_000).toISOString(),
  }) as unknown as DayTask;

const day = (now: DayTask[], following: DayTask | null) => ({ now, following }) as unknown as Today;

function Page({ today }: { today: Today }) {
  useRemind(today);
  return null;
}

const pass = (ms: number) => act(() => vi.advanceTimersByTimeAsync(ms));

beforeEach(() => {
  vi.useFakeTimers({ now: NOW });
  sounds.length = 0;
  notes.length = 0;
  Note.permission = "granted";
  vi.stubGlobal("Notification", Note);
  useReminders.setState({ isOn: true });
});
afterEach(() => {
  leavePage();
  vi.unstubAllGlobals();
});

describe("a reminder", () => {
  it("is given five minutes before hands are needed, once", async () => {
    inPage(<Page today={day([], task("a", 7))} />);
    await pass(110_000);
    expect(sounds).toEqual([]);
    await pass(20_000);
    expect(sounds).toEqual(["next"]);
    expect(notes.length).toBe(1);
    expect(notes[0]).toMatch(/Coat a \/ Beak$/);
    await pass(600_000);
    expect(sounds).toEqual(["next"]);
  });

  it("is given again when the same task has moved, and once on every page of the browser", async () => {
    const { redraw, unmount } = inPage(<Page today={day([], task("b", 3))} />);
    await pass(1000);
    redraw(<Page today={day([], task("b", 4))} />);
    await pass(1000);
    expect(sounds.length).toBe(2);
    unmount();
    inPage(<Page today={day([], task("b", 4))} />);
    await pass(20_000);
    expect(sounds.length).toBe(2);
  });

  it("is of what is to be begun now before what follows, and not of what is begun", async () => {
    inPage(<Page today={day([task("c", -1, true), task("d", -1)], task("e", 2))} />);
    await pass(1000);
    expect(notes.length).toBe(1);
    expect(notes[0]).toContain("Coat d");
  });

  it("is a sound alone where the browser gives no notes, and nothing where it is off", async () => {
    Note.permission = "denied";
    const first = inPage(<Page today={day([], task("f", 1))} />);
    await pass(1000);
    expect([sounds, notes]).toEqual([["next"], []]);
    first.unmount();
    act(() => useReminders.setState({ isOn: false }));
    inPage(<Page today={day([], task("g", 1))} />);
    await pass(60_000);
    expect(sounds).toEqual(["next"]);
  });
});

describe("whether it reminds", () => {
  it("is asked once, by a press, and remembered", async () => {
    useReminders.setState({ isOn: false });
    Note.permission = "default";
    Note.asked = 0;
    await useReminders.getState().turn();
    expect([useReminders.getState().isOn, Note.asked]).toEqual([true, 1]);
    expect(localStorage.getItem("mild-husk reminders")).toBe("on");
    await useReminders.getState().turn();
    expect([useReminders.getState().isOn, Note.asked]).toEqual([false, 1]);
    expect(localStorage.getItem("mild-husk reminders")).toBe("off");
    Note.permission = "denied";
    await useReminders.getState().turn();
    expect(Note.asked).toBe(1);
  });
});
