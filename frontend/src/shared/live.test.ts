// @vitest-environment jsdom
import { act, cleanup, renderHook } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { useDeviceOf, useLive, useLiveDevice, type Live } from "./live";

/** The line to the server, as a test speaks on it. */
class Line {
  static readonly CLOSED = 2;
  static opened: Line[] = [];
  readyState = 1;
  onmessage: ((message: MessageEvent<string>) => void) | null = null;

  constructor(readonly address: string) {
    Line.opened.push(this);
  }

  close() {
    this.readyState = Line.CLOSED;
  }

  says(told: object) {
    act(() => this.onmessage?.(new MessageEvent("message", { data: JSON.stringify(told) })));
  }
}

const line = () => Line.opened[Line.opened.length - 1];
const wait = (seconds: number) => act(() => vi.advanceTimersByTime(seconds * 1e3));
const device = (id: string, more: object = {}) => ({
  topic: "device",
  id,
  name: id,
  kind: "scale",
  is_there: true,
  state: "",
  unreadable: 0,
  ...more,
});

beforeEach(() => {
  vi.useFakeTimers();
  Line.opened = [];
  vi.stubGlobal("EventSource", Line);
});

afterEach(() => {
  cleanup();
  vi.useRealTimers();
});

describe("what the server tells by itself", () => {
  it("is heard by every page that listens, on one line that ends with the last", () => {
    const one = vi.fn<(told: Live) => void>();
    const other = vi.fn<(told: Live) => void>();
    const first = renderHook(() => useLive(one));
    const second = renderHook(() => useLive(other));
    expect(Line.opened.map(({ address }) => address)).toEqual(["/api/v1/live"]);
    line()?.says({ topic: "days" });
    expect([one.mock.calls.length, other.mock.calls.length]).toEqual([1, 1]);
    first.unmount();
    expect(line()?.readyState).toBe(1);
    second.unmount();
    expect(line()?.readyState).toBe(Line.CLOSED);
  });

  it("is asked for anew after a silence of twelve seconds, and after a refusal", () => {
    renderHook(() => useLive(() => undefined));
    wait(10);
    line()?.says({ topic: "quiet" });
    wait(11);
    expect(Line.opened).toHaveLength(1);
    wait(3);
    expect(Line.opened).toHaveLength(2);
    line()?.close();
    wait(1.5);
    expect(Line.opened).toHaveLength(3);
  });

  it("is asked for anew after a silence though the tablet's clock was put back meanwhile", () => {
    renderHook(() => useLive(() => undefined));
    wait(10);
    vi.setSystemTime(Date.now() - 3_600_000);
    wait(4);
    expect(Line.opened).toHaveLength(2);
  });

  it("of a device holds for four seconds: then it is lost, until it is told of again", () => {
    renderHook(() => useLive(() => undefined));
    const { result } = renderHook(() => useLiveDevice("bench"));
    line()?.says(device("bench", { kind: "room", c: 21.5 }));
    expect(result.current).toMatchObject({ is_there: true, c: 21.5 });
    wait(3.5);
    expect(result.current?.is_there).toBe(true);
    wait(2);
    // What it measured last is not forgotten, but it is not what it measures.
    expect(result.current).toMatchObject({ is_there: false, c: 21.5 });
    line()?.says(device("bench", { kind: "room", c: 22 }));
    expect(result.current).toMatchObject({ is_there: true, c: 22 });
  });

  it("a real scale goes before one that is simulated, as long as it is there", () => {
    renderHook(() => useLive(() => undefined));
    const { result } = renderHook(() => useDeviceOf("scale"));
    line()?.says(device("pretended", { standin: true }));
    expect(result.current?.id).toBe("pretended");
    line()?.says(device("steel"));
    expect(result.current?.id).toBe("steel");
    line()?.says(device("steel", { is_there: false }));
    line()?.says(device("pretended", { standin: true }));
    expect(result.current?.id).toBe("pretended");
  });
});
