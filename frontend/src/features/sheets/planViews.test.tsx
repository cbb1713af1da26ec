// @vitest-environment jsdom
import { fireEvent, screen, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import type { Amount, PastePlace, Plan } from "../../api/client";
import { useUnits } from "../../shared/units";
import { inPage, leavePage, withDialogs } from "../../testing/page";
import { LimitBars } from "./LimitBars";
import { PastePlaces } from "./PastePlaces";
import { Ribbon } from "./Ribbon";
import { WhyDrawer } from "./WhyDrawer";

beforeEach(() => {
  useUnits.setState({ system: "metric" });
  withDialogs();
});
afterEach(leavePage);

/** As much of a plan as these views read. */
function aPlan(fits = true): Plan {
  return {
    coats: [
      { number: 1, starts_s: 0, roll_until_s: 240, charge_kg: 0.06, binding_limit: "carry", fits },
      { number: 2, starts_s: 300, roll_until_s: 240, charge_kg: 0.05, binding_limit: "carry" },
    ],
    largest: { number: 1 },
    limits: { reach_kg: 0.02, scale_kg: 0.01, carry_kg: 0.055, time_kg: 0.2, rim_kg: 9, cup_kg: 1 },
    out_after_s: 5400,
    ribbon: [
      { coat: 1, kind: "cup", from_s: 0, until_s: 60, short: false },
      { coat: 1, kind: "roll", from_s: 60, until_s: 240, short: false },
      { coat: 2, kind: "weigh", from_s: 240, until_s: 300, short: true },
      { coat: 2, kind: "cure", from_s: 540, until_s: 7200, short: false },
    ],
  } as unknown as Plan;
}

const px = (element: Element, side: "left" | "width") =>
  parseFloat((element as HTMLElement).style[side]);

describe("what bounds a coat", () => {
  function opened(plan: Plan) {
    inPage(<LimitBars plan={plan} />);
    const bars = document.querySelector("details");
    if (!bars) throw new Error("no limits");
    bars.open = true;
    fireEvent(bars, new Event("toggle"));
    return bars;
  }

  it("names the limit that binds, and each with its grams", () => {
    const bars = opened(aPlan());
    expect(bars.querySelector("summary b")?.textContent).toBe("staying on the wall until it sets");
    const rows = [...bars.querySelectorAll("tr")].map((one) => one.lastElementChild?.textContent);
    expect(rows).toEqual([
      "from 20\u00a0g",
      "from 10\u00a0g",
      "up to 55\u00a0g",
      "up to 200\u00a0g",
      "up to 1,000\u00a0g",
      "up to 9,000\u00a0g",
    ]);
    expect(bars.querySelector("tr.due")).toBeNull();
  });

  it("draws all on one scale, and cuts off what is far away", () => {
    const bars = opened(aPlan());
    const [reach, , carry, time, , rim] = [...bars.querySelectorAll("td.bar i")];
    const [line] = [...bars.querySelectorAll("td.bar em")];
    if (!reach || !carry || !time || !rim || !line) throw new Error("a bar is missing");
    // 2.2 times the largest charge, 60 g, is the end of the scale.
    expect(px(line, "left")).toBeCloseTo(100 / 2.2, 6);
    expect(px(reach, "left")).toBeCloseTo((100 * 20) / 132, 6);
    expect(px(carry, "width")).toBeCloseTo((100 * 55) / 132, 6);
    expect(px(time, "width")).toBe(100);
    expect(px(rim, "width")).toBe(100);
  });

  it("marks the limit that is broken", () => {
    const bars = opened(aPlan(false));
    expect(bars.querySelector("tr.due th")?.textContent).toBe("staying on the wall until it sets");
  });
});

describe("the ribbon", () => {
  it("has each stretch to scale, and cuts the cure off", () => {
    inPage(<Ribbon plan={aPlan()} stale={false} />);
    const [cup, roll, weigh, cure] = [...document.querySelectorAll(".stretch")];
    if (!cup || !roll || !weigh || !cure) throw new Error("a stretch is missing");
    // Three minutes of rolling are three times a minute of the cup.
    expect(px(roll, "width") / px(cup, "width")).toBeCloseTo(3, 6);
    expect(px(roll, "left")).toBeCloseTo(px(cup, "width"), 6);
    expect(px(cure, "left") + px(cure, "width")).toBeCloseTo(100, 6);
    expect([weigh.className, weigh.textContent]).toEqual([
      "stretch weigh lane-0 short",
      "too short: weigh the next cup",
    ]);
    expect(cup.textContent).toBe("1cup");
  });

  it("is told in words to who does not see it", () => {
    inPage(<Ribbon plan={aPlan()} stale />);
    expect(document.body.textContent).toContain("Coat 2 starts after 5\u00a0min");
    expect(screen.getByLabelText("Ribbon: the coats in time").className).toBe("ribbon stale");
    expect(document.body.textContent).toContain("out of the mould after 1\u00a0h\u00a030\u00a0min");
  });

  it("of no coats is none", () => {
    inPage(<Ribbon plan={{ ...aPlan(), coats: [] }} stale={false} />);
    expect(document.querySelector(".ribbon")).toBeNull();
  });
});

describe("where a paste goes", () => {
  function places(first: PastePlace[]) {
    const took = vi.fn<(places: PastePlace[]) => void>();
    inPage(
      <PastePlaces
        places={first}
        problem="A place is larger than the face."
        onChange={took}
        onUnreadable={() => undefined}
      />,
    );
    return took;
  }
  const brow = { name: "brow", area_m2: 0.004 };
  const chin = { name: "chin", area_m2: 0.002 };

  it("says what is planned for while nothing is said, and begins with a hand's width", () => {
    const took = places([]);
    expect(document.body.textContent).toContain("planned for a fifth of the face");
    fireEvent.click(screen.getByText("Name a place"));
    expect(took).toHaveBeenCalledWith([{ name: "Place 1", area_m2: 0.006 }]);
  });

  it("changes, removes and adds one without the others", () => {
    const took = places([brow, chin]);
    const [, second] = screen.getAllByLabelText("Place");
    if (!second) throw new Error("no second place");
    fireEvent.change(second, { target: { value: "jaw" } });
    expect(took).toHaveBeenLastCalledWith([brow, { ...chin, name: "jaw" }]);
    fireEvent.click(screen.getByText("brow"));
    expect(took).toHaveBeenLastCalledWith([chin]);
    fireEvent.click(screen.getByText("Name a place"));
    expect(took).toHaveBeenLastCalledWith([brow, chin, { name: "Place 3", area_m2: 0.006 }]);
    expect(screen.getByText("A place is larger than the face.")).toBeTruthy();
  });
});

describe("why a figure is as it is", () => {
  const term = (part: Partial<Amount>): Amount =>
    ({
      key: "t",
      name: "term",
      unit: "m",
      value: 1,
      low: 1,
      high: 1,
      formula: "",
      words: "",
      source: "measured on the piece",
      terms: [],
      ...part,
    }) as Amount;
  const density = term({
    key: "d",
    name: "density",
    unit: "kg/m3",
    value: 1050,
    low: 1040,
    high: 1060,
    source: "your data sheet",
  });
  const area = term({
    key: "a",
    name: "casting face",
    unit: "m2",
    value: 0.05,
    source: "measured on the piece",
  });
  const volume = term({
    key: "v",
    name: "volume of the wall",
    unit: "m3",
    value: 0.00015,
    low: 0.00014,
    high: 0.00016,
    formula: "casting face × wall",
    terms: [area],
    source: "computed",
  });
  const room = term({
    key: "r",
    name: "room",
    unit: "K",
    value: 294.15,
    low: 293.15,
    high: 295.15,
  });
  const resin = term({
    key: "m",
    name: "resin to mix",
    unit: "kg",
    value: 0.1575,
    low: 0.14,
    high: 0.175,
    formula: "volume × density",
    terms: [volume, density, room],
  });
  const shown = () => document.querySelector(".why-figure")?.textContent;

  it("shows value, band, formula, and the origin of each term", () => {
    inPage(<WhyDrawer amount={resin} onClose={() => undefined} />);
    expect(shown()).toBe("157.5\u00a0g");
    expect(document.body.textContent).toContain("Likely between 140.0\u00a0g and 175.0\u00a0g");
    expect(document.body.textContent).toContain("= volume × density");
    const row = screen.getByText("density").closest("tr");
    if (!row) throw new Error("no row");
    expect(row.textContent).toContain("your data sheet");
    expect(row.textContent).toMatch(/give or take .*0\.01/);
    // A difference of one kelvin is one degree Celsius, not minus 272.
    expect(screen.getByText("room").closest("tr")?.textContent).toMatch(
      /give or take 1(\.0)?\u00a0°C/,
    );
  });

  it("opens a term that was worked out, and leads back", () => {
    inPage(<WhyDrawer amount={resin} onClose={() => undefined} />);
    // What was measured has nothing behind it.
    expect(within(screen.getByRole("table")).queryByTitle("Why? density")).toBeNull();
    fireEvent.click(screen.getByTitle("Why? volume of the wall"));
    expect(document.body.textContent).toContain("= casting face × wall");
    expect(shown()).toMatch(/150(\.0)?\u00a0ml/);
    fireEvent.click(screen.getByText("Back to resin to mix"));
    expect(shown()).toBe("157.5\u00a0g");
  });

  it("begins anew with another figure", () => {
    const { redraw } = inPage(<WhyDrawer amount={resin} onClose={() => undefined} />);
    fireEvent.click(screen.getByTitle("Why? volume of the wall"));
    redraw(<WhyDrawer amount={{ ...area, terms: [] }} onClose={() => undefined} />);
    expect(shown()).toMatch(/500(\.0)?\u00a0cm²/);
    expect(screen.queryByText(/^Back to/)).toBeNull();
  });
});
