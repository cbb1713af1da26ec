import { describe, expect, it } from "vitest";

import {
  bound as boundBy,
  carried,
  clockSeconds,
  clockTime,
  counted,
  countdown,
  day,
  duration,
  fieldText,
  listed,
  quantity,
  readField,
  size,
  weighed,
  type QuantityKind,
  type UnitSystem,
} from "./format";

/** As it is written here, with its number and unit held together as they are shown. */
const bound = (text: string) => text.replaceAll(/(?<=\d) (?=[^\d×])|(?<=fl) /g, "\u00a0");

describe("a sentence of the server", () => {
  it.each([
    ["Use 3 coats of 2.5 mm.", "Use 3_coats of 2.5_mm."],
    ["30 s at 22 °C, 15 % more", "30_s at 22_°C, 15_% more"],
    ["9 min 30 s", "9_min 30_s"],
    ["It tears at 12 kN/m; 35 kJ/mol, 0.4 Pa s.", "It tears at 12_kN/m; 35_kJ/mol, 0.4_Pa_s."],
    ["600 mPa s is thin", "600_mPa_s is thin"],
    ["Coat 2 goes on; 3 must wait.", "Coat 2 goes on; 3 must wait."],
    ["1 coat, not 12 coatings", "1_coat, not 12 coatings"],
    ["Room 12 in March holds 4 l", "Room 12 in March holds 4_l"],
    ["12 minutes, 3 metres", "12_minutes, 3 metres"],
  ])("is bound where it counts or measures: %s", (said, kept) => {
    expect(boundBy(said).replaceAll("\u00a0", "_")).toBe(kept);
  });
});

describe("days and times", () => {
  // The tests run for a reader in Britain (package.json).
  it("stand as the reader's system writes them, and no line parts them", () => {
    expect(day("2026-03-05T12:00:00")).toBe("5\u00a0Mar\u00a02026");
    expect(clockTime("2026-03-05T17:05:09")).toBe("17:05");
    expect(clockSeconds("2026-03-05T17:05:09")).toBe("17:05:09");
  });
});

describe("quantities are shown", () => {
  it("without a sign when they round to nought", () => {
    expect(quantity(-0.00002, "m", "metric")).toBe(bound("0.0 mm"));
    expect(quantity(-0.0049, "m", "metric")).toBe(bound("-4.9 mm"));
  });

  // Factors: NIST SP 811 (2008), appendix B.8: inch, ounce (avoirdupois), fluid ounce (US).
  const cases: [number, QuantityKind, UnitSystem, string][] = [
    [0.003, "m", "metric", "3.0 mm"],
    [0.0254, "m", "imperial", "1.000 in"],
    [0.0447, "m2", "metric", "447 cm²"],
    [0.00064516, "m2", "imperial", "1.0 in²"],
    [2.957353e-5, "m3", "imperial", "1.00 fl oz"],
    [294.15, "K", "metric", "21 °C"],
    [294.15, "K", "imperial", "70 °F"],
    [0.1234, "kg", "imperial", "123.4 g"],
    [0.155, "share", "metric", "15.5 %"],
    [1050, "kg/m3", "metric", "1.05 g/ml"],
    [3, "count", "metric", "3"],
  ];
  it.each(cases)("%f %s in %s is %s", (value, kind, system, said) => {
    expect(quantity(value, kind, system)).toBe(bound(said));
  });

  it.each([
    [1, "1 coat"],
    [2, "2 coats"],
    [0, "0 coats"],
  ])("%d of them are said as %s", (count, said) => {
    expect(counted(count, "coat")).toBe(bound(said));
    expect(counted(count, "pair", "pairs")).toBe(bound(said.replace("coat", "pair")));
  });

  it("lists several things without a comma before the last", () => {
    expect(listed([2])).toBe("2");
    expect(listed([1, 3])).toBe("1 and 3");
    expect(listed([1, 2, 4])).toBe("1, 2 and 4");
  });

  it("says weights of husks and sizes as they are carried", () => {
    expect(carried(0.4536, "metric")).toBe(bound("454 g"));
    expect(carried(0.45359237, "imperial")).toBe(bound("16.0 oz"));
    expect(size([0.2, 0.1, 0.05], "metric")).toBe(bound("200 × 100 × 50 mm"));
  });

  it.each([
    [45.2, "45 s"],
    [180, "3 min"],
    [200, "3 min 20 s"],
    [7530, "2 h 06 min"],
  ])("%d seconds are said as %s", (seconds, said) => {
    expect(duration(seconds)).toBe(said.replaceAll(" ", "\u00a0"));
  });

  it.each([
    [187, "3:07"],
    [0.2, "0:01"],
    [-5, "0:00"],
    [3727, "1:02:07"],
  ])("a clock at %d seconds shows %s", (seconds, shown) => {
    expect(countdown(seconds)).toBe(shown);
  });
});

describe("weights on a scale", () => {
  it.each([
    [0.14123, 1e-5, "141.23 g"],
    [0.1412, 1e-4, "141.2 g"],
    [0.141, 1e-3, "141 g"],
    [0.1415, 5e-4, "141.5 g"],
    [0.14125, 2.5e-4, "141.25 g"],
  ])("%f kg on a scale of %f kg is %s", (kilograms, step, shown) => {
    expect(weighed(kilograms, step)).toBe(bound(shown));
  });
});

describe("number fields", () => {
  const kinds: QuantityKind[] = ["m", "m3", "kg", "K", "share", "kg/m3", "min", "Pa s"];
  const systems: UnitSystem[] = ["metric", "imperial"];

  it.each(kinds.flatMap((kind) => systems.map((system) => [kind, system] as const)))(
    "a %s typed in %s comes back as it was",
    (kind, system) => {
      for (const value of [0.0025, 0.15, 294.15, 1050]) {
        const read = readField(fieldText(value, kind, system), kind, system);
        expect(Math.abs((read ?? NaN) - value)).toBeLessThan(
          Math.max(value * 1e-5, 2e-3 * Number(kind === "K")),
        );
      }
    },
  );

  it.each(["", "thin", "3 mm", "1,2,3", "NaN", "Infinity", "0x10", "--3"])(
    "%j is no number",
    (text) => {
      expect(readField(text, "m", "metric")).toBeNull();
    },
  );

  it("takes a comma for a point, and exponents", () => {
    // A comma before three figures may part thousands: the server decides that.
    expect(readField("1,500", "kg", "metric")).toBeNull();
    expect(readField("0,300", "m", "metric")).toBeCloseTo(0.0003, 12);
    expect(readField(" 2,5 ", "m", "metric")).toBeCloseTo(0.0025, 12);
    expect(readField("-.5e1", "count", "metric")).toBe(-5);
  });
});
