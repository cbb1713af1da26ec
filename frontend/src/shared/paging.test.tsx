// @vitest-environment jsdom
import { act, fireEvent, renderHook, screen } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";

import { inPage, leavePage } from "../testing/page";
import { untilDrawn, useListed, usePages, usePart } from "./paging";
import { SearchField } from "./SearchField";
import { Turner } from "./Turner";

afterEach(leavePage);

describe("a list on the server", () => {
  it("is turned by fifty rows", () => {
    const { result } = renderHook(() => usePages());
    expect(result.current.page).toEqual({ limit: 50, offset: 0 });
    act(() => result.current.pagesOf(140).turnTo(3));
    expect(result.current.page).toEqual({ limit: 50, offset: 100 });
    expect(result.current.pagesOf(140)).toMatchObject({ number: 3, rows: 50, total: 140 });
  });

  it("begins on its first page when something else is looked for or another order is wanted", () => {
    const { result } = renderHook(() => useListed());
    act(() => result.current.pagesOf(500).turnTo(4));
    expect(result.current.page).toEqual({ limit: 50, offset: 150, search: "", order: "newest" });
    act(() => result.current.setSearch("helmet"));
    expect(result.current.page).toEqual({
      limit: 50,
      offset: 0,
      search: "helmet",
      order: "newest",
    });
    act(() => result.current.pagesOf(200).turnTo(2));
    act(() => result.current.setOrder("name"));
    expect(result.current.page).toMatchObject({ offset: 0, search: "helmet", order: "name" });
  });

  it("is asked for again while its drawings are made", () => {
    expect([
      untilDrawn(undefined),
      untilDrawn({ drawing: false }),
      untilDrawn({ drawing: true }),
    ]).toEqual([false, false, 1500]);
  });
});

describe("a list that is all here", () => {
  it("shows a part, the last one shorter", () => {
    const rows = Array.from({ length: 120 }, (_, at) => at);
    const { result } = renderHook(() => usePart(rows));
    expect([result.current.rows[0], result.current.rows.length]).toEqual([0, 50]);
    act(() => result.current.pages.turnTo(3));
    expect([result.current.rows[0], result.current.rows.length]).toEqual([100, 20]);
  });

  it("goes back to its last page when there are fewer rows", () => {
    const { result, rerender } = renderHook(({ count }) => usePart(new Array(count).fill("row")), {
      initialProps: { count: 130 },
    });
    act(() => result.current.pages.turnTo(3));
    rerender({ count: 60 });
    expect([result.current.pages.number, result.current.rows.length]).toEqual([2, 10]);
    rerender({ count: 0 });
    expect([result.current.pages.number, result.current.rows.length]).toEqual([1, 0]);
  });
});

describe("what turns the pages", () => {
  it("is not there for one page, and says which rows are seen", () => {
    const turnTo = vi.fn();
    const pages = { number: 1, rows: 50, total: 50, turnTo };
    const { redraw } = inPage(<Turner pages={pages} />);
    expect(screen.queryByRole("navigation")).toBeNull();
    redraw(<Turner pages={{ ...pages, number: 2, total: 120 }} />);
    expect(screen.getByRole("status").textContent).toBe("51 to 100 of 120");
    fireEvent.click(screen.getByText("Next"));
    fireEvent.click(screen.getByText("Previous"));
    expect(turnTo.mock.calls).toEqual([[3], [1]]);
    redraw(<Turner pages={{ ...pages, number: 3, total: 120 }} />);
    expect(screen.getByRole("status").textContent).toBe("101 to 120 of 120");
    expect(screen.getByText<HTMLElement>("Next").closest("button")?.disabled).toBe(true);
  });
});

describe("a search", () => {
  it("says how many of how many are shown, where some are not", () => {
    const onChange = vi.fn();
    const { redraw } = inPage(
      <SearchField value="" onChange={onChange} shown={3} total={1240} label="Search the log" />,
    );
    expect(screen.getByRole("status").textContent).toBe("3 of 1,240 shown");
    fireEvent.change(screen.getByLabelText("Search the log"), { target: { value: "beak" } });
    expect(onChange).toHaveBeenCalledWith("beak");
    redraw(<SearchField value="beak" onChange={onChange} shown={3} total={3} />);
    expect(screen.queryByRole("status")).toBeNull();
  });
});
