// @vitest-environment jsdom
import { fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import type { CoatChoice, Cure, SheetQuestion } from "../../api/client";
import { useUnits } from "../../shared/units";
import { aServer, inPage, leavePage } from "../../testing/page";
import { CoatChoices } from "./CoatChoices";
import { CureCurves } from "./CureCurves";

vi.setConfig({ testTimeout: 60_000 });
beforeEach(() => useUnits.setState({ system: "metric" }));
afterEach(leavePage);

const question = { piece_id: "p", material_id: "m", wish: {} } as SheetQuestion;

function choice(coats: number, part: object = {}, whole: object = {}): CoatChoice {
  return {
    is_chosen: coats === 4,
    wish_coats: coats === 4 ? null : coats,
    job: null,
    ...whole,
    choice: {
      coats,
      total_charge_kg: 0.1 + 0.02 * coats,
      band_kg: [0.1 + 0.02 * coats, 0.1 + 0.02 * coats],
      hands_on_s: 300 * coats,
      evenness: 0.7,
      stands_on: "settled",
      keeps: true,
      on_frontier: true,
      ...part,
    },
  } as unknown as CoatChoice;
}

async function aPicture(choices: CoatChoice[], open = 0) {
  const took = vi.fn<(coats: number | null, count: number) => void>();
  const heard = aServer(() => ({ choices, open }));
  inPage(<CoatChoices question={question} onTake={took} />);
  await waitFor(() => expect(heard.length).toBe(1));
  if (choices.length > 1) await screen.findByLabelText("More or fewer coats");
  return { took, heard };
}

const points = () => [...document.querySelectorAll<HTMLButtonElement>("button.point")];

describe("the same wall in more or fewer coats", () => {
  it("is a picture of resin over time, in which the one that is planned is pressed in", async () => {
    await aPicture([choice(3), choice(4), choice(6)]);
    const [three, four, six] = points();
    if (!three || !four || !six) throw new Error("a point is missing");
    expect([three, four, six].map((one) => one.getAttribute("aria-pressed"))).toEqual([
      "false",
      "true",
      "false",
    ]);
    expect(four.disabled).toBe(true);
    const left = (one: HTMLElement) => parseFloat(one.style.left);
    const top = (one: HTMLElement) => parseFloat(one.style.top);
    // Two coats more are as far again as one more, twice; more resin stands higher.
    expect((left(six) - left(four)) / (left(four) - left(three))).toBeCloseTo(2, 6);
    expect(top(six)).toBeLessThan(top(four));
    expect(three.getAttribute("aria-label")).toBe(
      "3\u00a0coats, 160.0\u00a0g, hands on for 15\u00a0min, thin places 70.0\u00a0% of the mean wall",
    );
  });

  it("is taken by a press: so many coats, or as the limits have it", async () => {
    const back = choice(4, {}, { is_chosen: false });
    const { took } = await aPicture([choice(3, {}, { is_chosen: true }), back, choice(5)]);
    const [, four, five] = points();
    if (!four || !five) throw new Error("a point is missing");
    fireEvent.click(five);
    fireEvent.click(four);
    expect(took.mock.calls).toEqual([
      [5, 5],
      [null, 4],
    ]);
  });

  it("says of each what it is not: settled, enough, possible", async () => {
    const refused = { job: { status: "refused", said: "Most of it runs out." } };
    await aPicture([
      choice(2, { keeps: false, stands_on: "estimate", evenness: null }, refused),
      choice(4),
    ]);
    const [two] = points();
    expect(two?.className).toContain("estimated");
    expect(two?.className).toContain("short");
    expect(two?.getAttribute("aria-label")).toBe(
      "2\u00a0coats, 140.0\u00a0g, hands on for 10\u00a0min, an estimate, " +
        "does not keep the least wall or a limit, Most of it runs out.",
    );
    // What does not keep the wall is not simulated.
    expect(screen.queryByText("Simulate the others")).toBeNull();
  });

  it("has the others simulated, and stopped", async () => {
    const estimated = choice(5, { stands_on: "estimate" });
    const { heard } = await aPicture([choice(4), estimated]);
    fireEvent.click(screen.getByText("Simulate the others"));
    await waitFor(() => expect(heard.length).toBe(2));
    expect(heard[1]?.body).toMatchObject({ settle: true });
    leavePage();
    const other = await aPicture([choice(4), estimated], 1);
    expect(screen.getByRole("status").textContent).toContain("1 is being simulated.");
    fireEvent.click(screen.getByText("Stop"));
    await waitFor(() =>
      expect(other.heard.some((one) => (one.body as { stop?: boolean }).stop)).toBe(true),
    );
  });

  it("is no choice where there is one", async () => {
    await aPicture([choice(4)]);
    expect(screen.queryByLabelText("More or fewer coats")).toBeNull();
  });
});

describe("the curves of a cure", () => {
  const curve = (seconds: number[], pa_s: (number | null)[], kelvin: number[]) => ({
    t_s: seconds,
    viscosity_pa_s: pa_s,
    temperature_k: kelvin,
  });
  const cure = {
    working_time_s: 120,
    gel_film_s: 300,
    gel_cup_s: 200,
    curve: curve([0, 100, 200, 900], [0.1, 1, 10, 100], [296, 310, 360, 400]),
    film_curve: curve([0, 150, 300], [0.1, 1, null], [296, 297, 298]),
  } as unknown as Cure;

  /** The points of a curve as it is drawn. */
  const drawn = (label: string, kind: string) =>
    (screen.getByLabelText(label).querySelector(`path.${kind}`)?.getAttribute("d") ?? "")
      .split(/[ML]/)
      .filter(Boolean)
      .map((one) => one.split(" ").map(Number));

  it("stand over the same minutes, viscosity by decades", () => {
    inPage(<CureCurves cure={cure} />);
    const cup = drawn("Viscosity over time", "cup");
    // What comes after both have gelled is not drawn.
    expect(cup.length).toBe(3);
    const [first, second, third] = cup.map(([, y]) => y ?? 0);
    expect((first ?? 0) - (second ?? 0)).toBeCloseTo((second ?? 0) - (third ?? 0), 0);
    expect(drawn("Temperature over time", "cup").map(([x]) => x)).toEqual(cup.map(([x]) => x));
  });

  it("leave out what has no viscosity any more, but not its temperature", () => {
    inPage(<CureCurves cure={cure} />);
    expect(drawn("Viscosity over time", "film").length).toBe(2);
    expect(drawn("Temperature over time", "film").length).toBe(3);
  });

  it("are marked where the resin can no longer be worked, and where the film gels", () => {
    inPage(<CureCurves cure={cure} />);
    const marks = [...screen.getByLabelText("Viscosity over time").querySelectorAll(".mark text")];
    expect(marks.map((one) => one.textContent)).toEqual([
      "worked 2\u00a0min",
      "film gels 5\u00a0min",
    ]);
    const [worked, gels] = marks.map((one) => Number(one.getAttribute("x")));
    // 58 to 592 are 0 to 375 s.
    expect(worked).toBeCloseTo(58 + (120 / 375) * 534, 6);
    expect(gels).toBeCloseTo(58 + (300 / 375) * 534, 6);
  });
});
