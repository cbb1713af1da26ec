// @vitest-environment jsdom
import { act, cleanup, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, expect, it, vi } from "vitest";

import { ProblemError } from "../api/client";
import { Notices, useNotices } from "./Notices";

beforeEach(() => {
  vi.useFakeTimers();
});
afterEach(() => {
  act(() => vi.runAllTimers());
  vi.useRealTimers();
  cleanup();
});

const { say, refuse, withdraw } = useNotices.getState();
// The simulated document does not show what stands above the page.
const told = (role: "status" | "alert") => screen.getByRole(role, { hidden: true }).textContent;
const wait = (seconds: number) => act(() => vi.advanceTimersByTime(1e3 * seconds));

it("tells what was done, politely, and for four seconds", () => {
  render(<Notices />);
  act(() => say("Saved as your own sheet."));
  expect(told("status")).toBe("Saved as your own sheet.");
  expect(told("alert")).toBe("");
  wait(3.9);
  expect(told("status")).toBe("Saved as your own sheet.");
  wait(0.2);
  expect(told("status")).toBe("");
});

it("tells a refusal at once, in the server's sentence, for as long as one reads it", () => {
  render(<Notices />);
  act(() => refuse(new ProblemError("A sheet uses this piece.", 409, {})));
  expect(told("alert")).toBe("A sheet uses this piece.");
  wait(7.9);
  expect(told("alert")).toBe("A sheet uses this piece.");
  wait(0.2);
  expect(told("alert")).toBe("");
});

it("puts one in the place of another of the same id, with a time of its own", () => {
  render(<Notices />);
  act(() => say("“Owl” is deleted.", { id: "owl", seconds: 10 }));
  wait(9);
  act(() => say("“Owl” is deleted again.", { id: "owl", seconds: 10 }));
  expect(told("status")).toBe("“Owl” is deleted again.");
  wait(2);
  expect(told("status")).toBe("“Owl” is deleted again.");
  act(() => withdraw("owl"));
  expect(told("status")).toBe("");
});
