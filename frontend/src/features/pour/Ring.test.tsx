// @vitest-environment jsdom
import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, expect, it } from "vitest";

import { Ring, type Running } from "./Ring";

afterEach(cleanup);

const RUNNING: Running = {
  label: "Next coat may go on in",
  from: 0,
  until: 600,
  over: "Next coat may go on",
  tone: "next",
};

it.each([
  [0, ""],
  [299, ""],
  [300, "Next coat may go on in: 5\u00a0min left"],
  [539, "Next coat may go on in: 5\u00a0min left"],
  [541, "Next coat may go on in: 1\u00a0min left"],
  [586, "Next coat may go on in: 15\u00a0s left"],
  [600, "Next coat may go on"],
  [700, "Next coat may go on"],
])("after %d s of 600 it is read aloud: %s", (now, said) => {
  render(<Ring running={RUNNING} now={now} />);
  expect(screen.getByRole("status").textContent).toBe(said);
});

it("shows every second, and does not read it aloud", () => {
  render(<Ring running={RUNNING} now={590} />);
  expect(screen.getByRole("timer").textContent).toContain("0:10");
  expect(screen.getByRole("timer").contains(screen.getByRole("status"))).toBe(false);
});
