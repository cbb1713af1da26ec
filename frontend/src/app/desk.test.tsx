// @vitest-environment jsdom
import { act, fireEvent, renderHook, screen } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { useUnits } from "../shared/units";
import { inPage, leavePage, withDialogs } from "../testing/page";
import { useDark, useLook } from "./look";
import { Shortcuts } from "./Shortcuts";
import { STATIONS } from "./stations";
import { STOPS, useTour } from "./tour";

/** A system that is light or dark, and turns. */
function aSystem(isDark: boolean) {
  const listening = new Set<() => void>();
  const list = {
    matches: isDark,
    addEventListener: (_: string, told: () => void) => listening.add(told),
    removeEventListener: (_: string, told: () => void) => listening.delete(told),
  };
  vi.stubGlobal("matchMedia", () => list);
  return {
    turn: (dark: boolean) => {
      list.matches = dark;
      listening.forEach((told) => told());
    },
    listening,
  };
}

beforeEach(() => {
  useLook.setState({ look: "system" });
  useUnits.setState({ system: "metric" });
  withDialogs();
});
afterEach(() => {
  leavePage();
  vi.unstubAllGlobals();
});

describe("the desk", () => {
  it("is dark as the system is, also when that turns, until it is chosen here", () => {
    const system = aSystem(false);
    const { result, unmount } = renderHook(() => useDark());
    expect(result.current).toBe(false);
    act(() => system.turn(true));
    expect(result.current).toBe(true);
    const turn = () => act(() => useLook.getState().turn());
    turn();
    expect([useLook.getState().look, result.current]).toEqual(["light", false]);
    turn();
    act(() => system.turn(false));
    expect([useLook.getState().look, result.current]).toEqual(["dark", true]);
    turn();
    expect([useLook.getState().look, result.current]).toEqual(["system", false]);
    unmount();
    expect(system.listening.size).toBe(0);
  });

  it("remembers what was chosen in this browser", () => {
    useLook.getState().turn();
    expect(localStorage.getItem("husk-look")).toContain("light");
  });
});

describe("keys", () => {
  const press = (key: string, target: Element = document.body, more = {}) =>
    fireEvent.keyDown(target, { key, ...more });

  it.each(STATIONS.map(({ key, path }) => [key, path]))("g and %s lead to %s", (key, path) => {
    const { where } = inPage(<Shortcuts />, "/nowhere");
    press("g");
    press(key);
    expect(where()).toBe(path);
  });

  it("lead nowhere without g, after another key, or while somebody types", () => {
    const { where } = inPage(
      <>
        <Shortcuts />
        <input aria-label="Name" />
      </>,
      "/nowhere",
    );
    press("p");
    press("g");
    press("x");
    press("p");
    press("g", screen.getByLabelText("Name"));
    press("p", screen.getByLabelText("Name"));
    press("g", document.body, { ctrlKey: true });
    press("p");
    expect(where()).toBe("/nowhere");
  });

  it("change the units, and list themselves", () => {
    inPage(<Shortcuts />);
    press("u");
    expect(useUnits.getState().system).toBe("imperial");
    press("u");
    expect(useUnits.getState().system).toBe("metric");
    expect(document.querySelector("dialog")?.open ?? false).toBe(false);
    press("?");
    expect(document.querySelector("dialog")?.open).toBe(true);
    // Every station is in the list, with its own key.
    const listed = [...document.querySelectorAll("dl.keys div")].map((one) => one.textContent);
    for (const { name, key } of STATIONS) expect(listed).toContain(`g ${key}go to ${name}`);
    expect(new Set(STATIONS.map((one) => one.key)).size).toBe(STATIONS.length);
  });
});

describe("the tour", () => {
  it("goes through stations that there are, each once, and ends after the last", () => {
    const known = STATIONS.map((one) => one.path as string);
    expect(STOPS.map((one) => one.path).filter((one) => !known.includes(one))).toEqual([]);
    expect(new Set(STOPS.map((one) => one.path)).size).toBe(known.length);
    const went: string[] = [];
    const go = (path: string) => went.push(path);
    useTour.getState().begin(go);
    for (let at = 1; at <= STOPS.length; at += 1) {
      expect(useTour.getState().at).toBe(at - 1);
      useTour.getState().goTo(at, go);
    }
    expect(useTour.getState().at).toBeNull();
    expect(went).toEqual(STOPS.map((one) => one.path));
  });

  it("is left where one is", () => {
    const go = vi.fn();
    useTour.getState().begin(go);
    useTour.getState().end();
    expect([useTour.getState().at, go.mock.calls.length]).toEqual([null, 1]);
    useTour.getState().goTo(-1, go);
    expect([useTour.getState().at, go.mock.calls.length]).toEqual([null, 1]);
  });
});
