// @vitest-environment jsdom
import { act } from "@testing-library/react";
import { afterEach, beforeEach, expect, it, vi } from "vitest";

import { aServer, inPage, leavePage } from "../testing/page";
import { motionsQuery, useStanding, workshopQuery } from "./standing";

const ALL = ["/access", "/fault-kinds", "/heads", "/motions", "/workshop"];

function Page() {
  useStanding();
  return null;
}

beforeEach(() => vi.useFakeTimers());
afterEach(leavePage);

it("is asked for once, after what the first page itself asks for", async () => {
  const heard = aServer(() => ({ motions: [], kinds: [], heads: [] }));
  const { queries } = inPage(<Page />);
  await act(() => vi.advanceTimersByTimeAsync(2900));
  expect(heard).toEqual([]);
  await act(() => vi.advanceTimersByTimeAsync(200));
  expect(heard.map((one) => one.path).sort()).toEqual(ALL);
  // A page that needs it later asks for nothing.
  await act(() => queries.ensureQueryData(workshopQuery()));
  await act(() => vi.advanceTimersByTimeAsync(3_600_000));
  expect(heard.length).toBe(ALL.length);
});

it("leaves alone what a page has asked for before, and asks nothing of who has left", async () => {
  const heard = aServer(() => ({ motions: [], kinds: [], heads: [] }));
  const { queries, unmount } = inPage(<Page />);
  await act(() => queries.fetchQuery(motionsQuery()));
  await act(() => vi.advanceTimersByTimeAsync(3100));
  expect(heard.filter((one) => one.path === "/motions").length).toBe(1);
  unmount();
  heard.length = 0;
  const second = inPage(<Page />);
  second.unmount();
  await vi.advanceTimersByTimeAsync(10_000);
  expect(heard).toEqual([]);
});
