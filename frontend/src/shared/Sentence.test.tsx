// @vitest-environment jsdom
import { screen } from "@testing-library/react";
import { afterEach, expect, it } from "vitest";

import type { SentenceText } from "../api/client";
import { inPage, leavePage } from "../testing/page";
import { Sentence, sentenceIn } from "./Sentence";
import { useUnits } from "./units";

afterEach(leavePage);

const told: SentenceText = {
  template: "The wall is {wall} at {room}, and {unknown} stays as it is.",
  values: { wall: { value: 0.00254, unit: "m" }, room: { value: 293.15, unit: "K" } },
};

it("has its quantities in the reader's units, and no number parted from its unit", () => {
  // NIST SP 811, appendix B.8: 1 in = 25.4 mm exactly; 20 °C = 68 °F.
  expect(sentenceIn(told, "metric")).toBe(
    "The wall is 2.5\u00a0mm at 20\u00a0°C, and {unknown} stays as it is.",
  );
  const imperial = sentenceIn(told, "imperial");
  expect(imperial).toMatch(/0\.100?\u00a0in at 68(\.0)?\u00a0°F/);
});

it("changes with the units while it is read", () => {
  useUnits.setState({ system: "metric" });
  const { redraw } = inPage(<Sentence text={told} />);
  expect(document.body.textContent).toContain("mm");
  useUnits.setState({ system: "imperial" });
  redraw(<Sentence text={told} />);
  expect(document.body.textContent).toContain("°F");
  useUnits.setState({ system: "metric" });
  expect(screen.queryByText("mm")).toBeNull();
});
