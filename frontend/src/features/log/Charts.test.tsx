// @vitest-environment jsdom
import { screen } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it } from "vitest";

import type { CastCharts } from "../../api/client";
import { useUnits } from "../../shared/units";
import { inPage, leavePage } from "../../testing/page";
import { Charts } from "./Charts";

beforeEach(() => useUnits.setState({ system: "metric" }));
afterEach(leavePage);

const cast = (number: number, wall_m: number | null = null) => ({
  pour_id: `p${number}`,
  number,
  minutes_s: null,
  wall_m,
});

function charts(part: Partial<CastCharts> = {}): CastCharts {
  return {
    sheet_name: "Souvenir",
    casts: [1, 2, 3, 5].map((one) => cast(one)),
    weight: {
      values: [0.1, 0.102, 0.098, 0.13],
      middle: 0.1,
      low: 0.09,
      high: 0.11,
      signals: [{ at: 3, words: "beyond the limits" }],
      drift: null,
    },
    minutes: null,
    wall: null,
    places: [],
    ...part,
  } as unknown as CastCharts;
}

const heights = (selector: string) =>
  [...document.querySelectorAll(selector)].map((one) =>
    Number(one.getAttribute("cy") ?? one.getAttribute("y1")),
  );

describe("a control chart", () => {
  it("wants four casts", () => {
    const { redraw } = inPage(
      <Charts charts={charts({ weight: null, casts: [cast(1)] as never })} />,
    );
    expect(document.body.textContent).toBe("A control chart wants four casts; there is 1.");
    redraw(<Charts charts={charts({ weight: null, casts: [cast(1), cast(2)] as never })} />);
    expect(document.body.textContent).toBe("A control chart wants four casts; there are 2.");
  });

  it("has heavier casts higher, on one scale with its limits", () => {
    inPage(<Charts charts={charts()} />);
    const [first, second, third, fourth] = heights("circle");
    const [high, middle, low] = heights("line");
    if (first === undefined || second === undefined || third === undefined) throw new Error();
    if (fourth === undefined || high === undefined || middle === undefined) throw new Error();
    if (low === undefined) throw new Error();
    expect(second).toBeLessThan(first);
    expect(third).toBeGreaterThan(first);
    // 100 g is the middle; 130 g lies as far above the upper limit as that and half again.
    expect(first).toBeCloseTo(middle, 6);
    expect((high - fourth) / (low - high)).toBeCloseTo(1, 6);
  });

  it("names the cast that breaks a rule by its number, leads to its pour, and draws it larger", () => {
    inPage(<Charts charts={charts()} />);
    const link = screen.getByRole("link");
    expect([link.textContent, link.getAttribute("href")]).toEqual(["cast 5", "/log/p5"]);
    expect(document.body.textContent).toContain("cast 5: beyond the limits");
    const dots = [...document.querySelectorAll("circle")];
    expect(dots.map((one) => one.getAttribute("r"))).toEqual(["3.5", "3.5", "3.5", "6"]);
    expect(dots[3]?.textContent).toMatch(/^cast 5: 130(\.0)?\u00a0g$/);
  });

  it("says that all is in control only where nothing drifts", () => {
    const calm = { ...charts().weight, signals: [] };
    const { redraw } = inPage(<Charts charts={charts({ weight: calm as never })} />);
    expect(document.body.textContent).toContain("In control");
    const drift = { share: -0.031, low: -0.05, high: -0.012, values: 9 };
    redraw(<Charts charts={charts({ weight: { ...calm, drift } as never })} />);
    expect(document.body.textContent).not.toContain("In control");
    expect(document.body.textContent).toContain("3.1\u00a0% less over 9");
    expect(document.body.textContent).toContain("(-5.0 to -1.2\u00a0%)");
  });

  it("of a wall leaves out the casts that were not read", () => {
    const chart = { values: [0.003, 0.0031], middle: 0.003, low: 0.002, high: 0.004, signals: [] };
    const casts = [cast(1, 0.003), cast(2), cast(3, 0.0031), cast(4)];
    inPage(<Charts charts={charts({ casts, wall: { ...chart, drift: null } } as never)} />);
    const wall = screen.getByLabelText(/^Wall as it was read/);
    const said = [...wall.querySelectorAll("circle")].map((one) => one.textContent);
    expect(said[1]).toMatch(/^cast 3: 3\.1\u00a0mm$/);
  });
});
