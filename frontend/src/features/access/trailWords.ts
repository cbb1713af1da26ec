import type { TrailLine } from "../../api/client";
import { clockTime, day, quantity, type QuantityKind, type UnitSystem } from "../../shared/format";

/** Where somebody sees the thing itself. */
const PLACES: Readonly<Record<string, string>> = {
  cast_run: "/log/runs/",
  cast_sheet: "/sheets/",
  material: "/shelf/",
  mould: "/moulds/",
  piece: "/pieces/",
  pour: "/log/",
};

/** What a field is called where its own name says too little. */
const FIELDS: Readonly<Record<string, string>> = {
  a_g: "A in the cup",
  b_g: "B in the cup",
  asked: "what was asked",
  cast_g: "cast weight",
  material_id: "material",
  room_k: "room",
  room_temperature_k: "room",
  sheet_id: "sheet",
};

/** The unit that a field's name ends in, and how much of it is one of the SI. */
const UNITS: readonly (readonly [ending: string, kind: QuantityKind, scale: number])[] = [
  ["_kg", "kg", 1],
  ["_g", "kg", 1e-3],
  ["_m2", "m2", 1],
  ["_m3", "m3", 1],
  ["_m", "m", 1],
  ["_s", "min", 1],
  ["_k", "K", 1],
];
const SHARES = new Set(["allowance", "loss"]);
const MOMENT = /^\d{4}-\d{2}-\d{2}T\d{2}:\d{2}/;
const LONGEST = 60;

/** Where the thing stands now; nowhere when it is deleted. */
export function placeOf(line: TrailLine): string | null {
  const place = PLACES[line.what];
  return place && line.thing_id && line.action !== "deleted" ? place + line.thing_id : null;
}

/** A field in words: without the unit its name ends in, and without what it stands in. */
export function fieldName(field: string): string {
  const last = field.slice(field.lastIndexOf(".") + 1);
  const [ending] = UNITS.find(([one]) => last.endsWith(one)) ?? [""];
  const bare = last.slice(0, last.length - ending.length).replace(/_(id|at|on|json)$/, "");
  return FIELDS[last] ?? bare.replaceAll("_", " ");
}

/** A value as whoever sits here reads it. */
export function valueOf(field: string, value: unknown, system: UnitSystem): string {
  const last = field.slice(field.lastIndexOf(".") + 1);
  if (value === null || value === undefined || value === "") return "nothing";
  if (typeof value === "boolean") return value ? "yes" : "no";
  if (typeof value === "number") {
    if (SHARES.has(last)) return quantity(value, "share", system);
    const [, kind, scale] = UNITS.find(([ending]) => last.endsWith(ending)) ?? [];
    return kind && scale ? quantity(value * scale, kind, system) : String(value);
  }
  if (typeof value === "string") {
    if (MOMENT.test(value)) return `${day(value)}, ${clockTime(value)}`;
    return value.length > LONGEST ? `${value.slice(0, LONGEST)} …` : value;
  }
  return "another value";
}
