import type { ResinSheet } from "../../api/client";
import type { QuantityKind } from "../../shared/format";

export const ORIGIN_WORDS: Record<ResinSheet["origin"], string> = {
  typical: "typical",
  "own-sheet": "your sheet",
};

export function ratioOf(sheet: ResinSheet): string {
  return `${sheet.parts_a} : ${sheet.parts_b} by ${sheet.ratio_basis}`;
}

type NumericField = {
  [K in keyof ResinSheet]-?: ResinSheet[K] extends number ? K : never;
}[keyof ResinSheet];

interface Group {
  title: string;
  fields: readonly { field: NumericField; label: string; kind: QuantityKind }[];
}

export const CLOCK = "Clock, from when A meets B";

/** The data sheet, in the order in which a maker reads one. */
export const GROUPS: readonly Group[] = [
  {
    title: "Mix",
    fields: [
      { field: "parts_a", label: "Parts of A", kind: "count" },
      { field: "parts_b", label: "Parts of B", kind: "count" },
      { field: "density_a_kg_m3", label: "Density of A", kind: "kg/m3" },
      { field: "density_b_kg_m3", label: "Density of B", kind: "kg/m3" },
      { field: "viscosity_pa_s", label: "Mixed viscosity", kind: "Pa s" },
    ],
  },
  {
    title: CLOCK,
    fields: [
      { field: "working_time_s", label: "Working time", kind: "min" },
      { field: "standard_mass_kg", label: "… of this mass in a cup", kind: "kg" },
      { field: "standard_temperature_k", label: "… at", kind: "K" },
      { field: "gel_s", label: "Gel", kind: "min" },
      { field: "tack_from_s", label: "Tack window opens", kind: "min" },
      { field: "tack_until_s", label: "Tack window closes", kind: "min" },
      { field: "demould_s", label: "Demould", kind: "min" },
      { field: "full_cure_s", label: "Full cure", kind: "min" },
    ],
  },
  {
    title: "Cured",
    fields: [
      { field: "density_cured_kg_m3", label: "Density, cured", kind: "kg/m3" },
      { field: "coat_wall_m", label: "Wall one coat leaves", kind: "m" },
      { field: "shrinkage", label: "Linear shrinkage", kind: "share" },
    ],
  },
  { title: "Kit", fields: [{ field: "kit_mass_kg", label: "A and B together", kind: "kg" }] },
];
