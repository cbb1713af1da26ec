// @vitest-environment jsdom
import { act, fireEvent, screen } from "@testing-library/react";
import { useState } from "react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import type { Job } from "../../api/client";
import { aServer, inPage, leavePage, Refusal } from "../../testing/page";
import { JobProgress } from "./JobProgress";
import { jobQuery, useWhenDone } from "./queries";

const job = (part: Partial<Job>): Job =>
  ({
    id: "7",
    title: "Beak",
    status: "running",
    share: 0.404,
    said: "coat 2 of 5",
    ...part,
  }) as Job;

beforeEach(() => vi.useFakeTimers());
afterEach(leavePage);

const pass = (ms: number) => act(() => vi.advanceTimersByTimeAsync(ms));

describe("long work", () => {
  it("says what it is at and how far it is", () => {
    inPage(<JobProgress job={job({})} />);
    expect(screen.getByRole("status").textContent).toContain("Beak: coat 2 of 5");
    expect(screen.getByRole("progressbar").getAttribute("value")).toBe("0.404");
    expect(document.body.textContent).toContain("40\u00a0%");
  });

  it("is cancelled by a press, which is told to whoever waits first", async () => {
    const heard = aServer(() => job({ status: "cancelled" }));
    const told = vi.fn(() => expect(heard).toEqual([]));
    inPage(<JobProgress job={job({})} onCancel={told} />);
    fireEvent.click(screen.getByLabelText("Cancel Beak"));
    expect(told).toHaveBeenCalledOnce();
    await pass(50);
    expect(heard).toMatchObject([{ method: "DELETE", path: "/jobs/7" }]);
  });

  it("says so when it cannot be cancelled", async () => {
    aServer(() => new Refusal(409, "It is done already."));
    inPage(<JobProgress job={job({})} />);
    fireEvent.click(screen.getByLabelText("Cancel Beak"));
    await pass(100);
    expect(document.body.textContent).toContain("It is done already.");
  });

  it("ends in a sentence", () => {
    const { redraw } = inPage(<JobProgress job={job({ status: "cancelled" })} />);
    expect(screen.getByRole("status").textContent).toBe("Cancelled; nothing was kept.");
    redraw(<JobProgress job={job({ status: "refused", said: "The file has no faces." })} />);
    expect(document.body.textContent).toContain("The file has no faces.");
    expect(screen.queryByRole("progressbar")).toBeNull();
    redraw(<JobProgress job={job({ status: "done", share: 1 })} untitled />);
    expect(screen.queryByText("Cancel")).toBeNull();
    expect(screen.queryByText("Beak")).toBeNull();
  });
});

describe("what waits for a job", () => {
  it("looks up what the job changed, and then goes on, once", async () => {
    const then = vi.fn();
    let tell: (job: Job) => void = () => undefined;
    function Waiting() {
      const [known, setKnown] = useState<Job>(job({}));
      tell = setKnown;
      useWhenDone(known, ["sheets"], then);
      return null;
    }
    const { queries } = inPage(<Waiting />);
    queries.setQueryData(["sheets", "list"], {});
    queries.setQueryData(["pieces"], {});
    act(() => tell(job({ share: 0.9 })));
    await pass(50);
    expect(then).not.toHaveBeenCalled();
    act(() => tell(job({ status: "done" })));
    await pass(50);
    act(() => tell(job({ status: "done", share: 1 })));
    await pass(50);
    expect(then).toHaveBeenCalledOnce();
    expect(queries.getQueryState(["sheets", "list"])?.isInvalidated).toBe(true);
    expect(queries.getQueryState(["pieces"])?.isInvalidated).toBe(false);
  });

  it("asks again until it is ended, and no longer", async () => {
    let status: Job["status"] = "waiting";
    const heard = aServer(() => job({ status }));
    const { queries } = inPage(null);
    const interval = jobQuery("7").refetchInterval;
    if (typeof interval !== "function") throw new Error("it is not asked for again");
    const next = async () => {
      await queries.fetchQuery({ ...jobQuery("7"), staleTime: 0 });
      const query = queries.getQueryCache().find<Job>({ queryKey: ["jobs", "7"] });
      return query && interval(query as never);
    };
    expect(await next()).toBeGreaterThan(0);
    status = "running";
    expect(await next()).toBeGreaterThan(0);
    for (const ended of ["done", "refused", "cancelled"] as const) {
      status = ended;
      expect(await next()).toBe(false);
    }
    expect(heard.length).toBe(5);
  });
});
