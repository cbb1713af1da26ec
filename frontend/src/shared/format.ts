/** Showing and reading quantities. SI comes in and goes out; how it is shown is decided here. */

export type UnitSystem = "metric" | "imperial";
export type QuantityKind =
  | "m"
  | "m2"
  | "m3"
  | "kg"
  | "kg/m3"
  | "s"
  | "K"
  | "share"
  | "count"
  | "money"
  | "Pa s"
  | "N/m"
  | "min"
  | "hour"
  | "load"
  | "J/mol"
  | "pace"
  | "rad";

interface Shown {
  unit: string;
  /** shown = SI * scale + offset */
  scale: number;
  offset: number;
  digits: number;
}

// Factors of NIST SP 811, appendix B.8: 1 in = 25.4 mm, 1 oz (US fluid) = 29.57353 ml.
const METRIC: Record<QuantityKind, Shown> = {
  m: { unit: "mm", scale: 1e3, offset: 0, digits: 1 },
  m2: { unit: "cm²", scale: 1e4, offset: 0, digits: 0 },
  m3: { unit: "ml", scale: 1e6, offset: 0, digits: 0 },
  // Grams in both systems: that is what the scale on the bench shows.
  kg: { unit: "g", scale: 1e3, offset: 0, digits: 1 },
  "kg/m3": { unit: "g/ml", scale: 1e-3, offset: 0, digits: 2 },
  s: { unit: "", scale: 1, offset: 0, digits: 0 },
  min: { unit: "min", scale: 1 / 60, offset: 0, digits: 1 },
  // Of the day, in hours; what a machine or a back carries; how fast a mould is covered.
  hour: { unit: "h", scale: 1, offset: 0, digits: 1 },
  load: { unit: "kg", scale: 1, offset: 0, digits: 1 },
  "J/mol": { unit: "kJ/mol", scale: 1e-3, offset: 0, digits: 1 },
  pace: { unit: "m²/min", scale: 60, offset: 0, digits: 2 },
  K: { unit: "°C", scale: 1, offset: -273.15, digits: 0 },
  rad: { unit: "°", scale: 180 / Math.PI, offset: 0, digits: 0 },
  share: { unit: "%", scale: 100, offset: 0, digits: 1 },
  count: { unit: "", scale: 1, offset: 0, digits: 0 },
  money: { unit: "", scale: 1, offset: 0, digits: 2 },
  "N/m": { unit: "kN/m", scale: 1e-3, offset: 0, digits: 0 },
  "Pa s": { unit: "mPa s", scale: 1e3, offset: 0, digits: 0 },
};
const IMPERIAL: Record<QuantityKind, Shown> = {
  ...METRIC,
  m: { unit: "in", scale: 1 / 0.0254, offset: 0, digits: 3 },
  m2: { unit: "in²", scale: 1 / 0.0254 ** 2, offset: 0, digits: 1 },
  load: { unit: "lb", scale: 1 / 0.45359237, offset: 0, digits: 1 },
  pace: { unit: "ft²/min", scale: 60 / 0.3048 ** 2, offset: 0, digits: 1 },
  m3: { unit: "fl\u00a0oz", scale: 1 / 29.57353e-6, offset: 0, digits: 2 },
  K: { unit: "°F", scale: 1.8, offset: -459.67, digits: 0 },
};

function shownAs(kind: QuantityKind, system: UnitSystem): Shown {
  return (system === "metric" ? METRIC : IMPERIAL)[kind];
}

export function unitOf(kind: QuantityKind, system: UnitSystem): string {
  return shownAs(kind, system).unit;
}

function grouped(value: number, digits: number): string {
  const shown = value.toLocaleString("en-US", {
    minimumFractionDigits: digits,
    maximumFractionDigits: digits,
  });
  // What rounds to nought has no sign.
  return /^-[0.]+$/.test(shown) ? shown.slice(1) : shown;
}

/** The number alone, without its unit. */
export function number(value: number, kind: QuantityKind, system: UnitSystem): string {
  const shown = shownAs(kind, system);
  return grouped(value * shown.scale + shown.offset, shown.digits);
}

/** A number and its unit, which no line parts. */
export function withUnit(shown: string | number, unit: string): string {
  return unit ? `${shown}\u00a0${unit}` : String(shown);
}

/** So many of something, in the singular where it is one. */
export function counted(count: number, one: string, several = `${one}s`): string {
  return withUnit(count, count === 1 ? one : several);
}

const UNITS =
  "mm|cm|m|cm²|m²|in²|ml|l|fl\u00a0oz|g|kg|oz|lb|g/ml|kg/m³|s|min|h|days?|weeks?|hours?|minutes?|" +
  "seconds?|°C|°F|K|%|rpm|m?Pa s|kN/m|kJ/mol|degrees|EUR|coats?|casts?|pours?|pieces?|faces|parts?|kB|MB";
const PARTED = new RegExp(`(\\d) (?=(?:${UNITS})(?![\\p{L}\\d]))`, "gu");

/** A sentence as the server made it, its numbers and units bound together: no line parts them. */
export function bound(sentence: string): string {
  return sentence.replaceAll(PARTED, "$1\u00a0").replaceAll(/(?<=\u00a0m?Pa) s\b/g, "\u00a0s");
}

/** A quantity as it is read: number, space, unit. */
export function quantity(value: number, kind: QuantityKind, system: UnitSystem): string {
  if (kind === "s") return duration(value);
  if (kind === "share") return withUnit(Number((value * 100).toPrecision(3)), "%");
  return withUnit(number(value, kind, system), unitOf(kind, system));
}

/** How many figures after the point a scale with this last digit shows. */
function figuresOf(stepKg: number): number {
  const grams = stepKg * 1e3;
  const whole = [0, 1, 2, 3].find(
    (n) => Math.abs(grams * 10 ** n - Math.round(grams * 10 ** n)) < 1e-9,
  );
  return whole ?? 3;
}

/** A weight as the scale shows it, without its unit: parts add up as they are read. */
export function weighedNumber(kilograms: number, stepKg: number): string {
  return grouped(kilograms * 1e3, figuresOf(stepKg));
}

/** A weight as the scale shows it. */
export function weighed(kilograms: number, stepKg: number): string {
  return withUnit(weighedNumber(kilograms, stepKg), "g");
}

/** Weight of a husk as it is carried: grams, or ounces. */
export function carried(kilograms: number, system: UnitSystem): string {
  return system === "metric"
    ? withUnit(grouped(kilograms * 1e3, 0), "g")
    : withUnit(grouped(kilograms / 0.028349523, 1), "oz");
}

/** Size of a box: one unit behind three numbers. */
export function size(extents: readonly number[], system: UnitSystem): string {
  const numbers = extents.map((one) => grouped(one * shownAs("m", system).scale, 0));
  return system === "metric"
    ? withUnit(numbers.join(" × "), "mm")
    : withUnit(extents.map((one) => grouped(one / 0.0254, 1)).join(" × "), "in");
}

/** A time with two units at most, which no line parts: 45 s, 3 min 20 s, 2 h 05 min. */
export function duration(seconds: number): string {
  const whole = Math.round(seconds);
  if (whole < 60) return withUnit(whole, "s");
  if (whole < 3600) {
    const rest = whole % 60;
    const minutes = Math.floor(whole / 60);
    const told = withUnit(minutes, "min");
    return rest ? withUnit(told, withUnit(String(rest).padStart(2, "0"), "s")) : told;
  }
  const minutes = Math.round(whole / 60);
  const rest = withUnit(String(minutes % 60).padStart(2, "0"), "min");
  return withUnit(withUnit(Math.floor(minutes / 60), "h"), rest);
}

/** A running clock: 3:07, or 1:02:07. */
export function countdown(seconds: number): string {
  const whole = Math.max(0, Math.ceil(seconds));
  const two = (value: number) => String(value).padStart(2, "0");
  const minutes = Math.floor(whole / 60);
  return minutes < 60
    ? `${minutes}:${two(whole % 60)}`
    : `${Math.floor(minutes / 60)}:${two(minutes % 60)}:${two(whole % 60)}`;
}

/** A time of day as the reader's system writes it. */
export function clockTime(iso: string): string {
  return new Date(iso)
    .toLocaleTimeString(undefined, { hour: "2-digit", minute: "2-digit" })
    .replaceAll(" ", "\u00a0");
}

/** A time of day with its seconds. */
export function clockSeconds(iso: string): string {
  return new Date(iso).toLocaleTimeString(undefined).replaceAll(" ", "\u00a0");
}

const lists = new Intl.ListFormat("en-GB");

/** Several things as one says them: "1, 2 and 4". */
export function listed(things: readonly (string | number)[]): string {
  return lists.format(things.map(String));
}

/** A day as the reader's system writes it, which no line parts. */
export function day(iso: string): string {
  return new Date(iso)
    .toLocaleDateString(undefined, { day: "numeric", month: "short", year: "numeric" })
    .replaceAll(" ", "\u00a0");
}

export function money(amount: string | number, currency: string): string {
  return withUnit(grouped(Number(amount), 2), currency);
}

/** What stands in a number field for a value in SI. */
export function fieldText(value: number, kind: QuantityKind, system: UnitSystem): string {
  const shown = shownAs(kind, system);
  return String(Number((value * shown.scale + shown.offset).toPrecision(6)));
}

/** The SI value of a plain number; null for anything that wants the server's reading.

A comma before three figures may part thousands: nobody but the server decides that.
*/
export function readField(text: string, kind: QuantityKind, system: UnitSystem): number | null {
  const typed = text.trim();
  if (/[1-9]\d{0,2},\d{3}$/.test(typed)) return null;
  const plain = typed.replace(",", ".");
  if (!/^[-+]?(\d+\.?\d*|\.\d+)(e[-+]?\d+)?$/i.test(plain)) return null;
  const shown = shownAs(kind, system);
  const value = (Number(plain) - shown.offset) / shown.scale;
  return Number.isFinite(value) ? value : null;
}
