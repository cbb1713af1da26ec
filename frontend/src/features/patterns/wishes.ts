import type { PatternKind } from "../../api/client";
import type { QuantityKind } from "../../shared/format";
import type { PatternQuery } from "./queries";

/** A field of what is wanted of a pattern, and what stands in it at first. */
export interface WishField {
  name: Exclude<keyof PatternQuery, "kind">;
  label: string;
  kind: QuantityKind;
  first: number;
}

/** What each kind asks for, the most often changed first. */
export const WISHES: Record<PatternKind, readonly WishField[]> = {
  "part-line": [
    { name: "clearance_m", label: "Clearance to the rubber", kind: "m", first: 0.001 },
    { name: "flange_m", label: "Width of the flange", kind: "m", first: 0.045 },
    { name: "bolt_pitch_m", label: "From bolt to bolt", kind: "m", first: 0.1 },
    { name: "foot_m", label: "Foot on the board", kind: "m", first: 0.04 },
    { name: "turned", label: "Turn the split by", kind: "rad", first: 0 },
  ],
  strips: [
    { name: "length_m", label: "Length of a strip", kind: "m", first: 0.3 },
    { name: "width_m", label: "Width of a strip", kind: "m", first: 0.2 },
    { name: "overlap", label: "Overlap on the last strip", kind: "share", first: 0.5 },
    { name: "strip_plies", label: "Plies of a strip", kind: "count", first: 3 },
    { name: "passes", label: "Layers over the shell", kind: "count", first: 1 },
    { name: "seam_step_m", label: "Step at a seam strip’s ends", kind: "m", first: 0.02 },
    { name: "working_s", label: "Working time", kind: "min", first: 480 },
  ],
  skirt: [
    { name: "height_m", label: "Height", kind: "m", first: 0.125 },
    { name: "flare", label: "Flare outwards", kind: "rad", first: 0 },
    { name: "thickness_m", label: "Thickness of the material", kind: "m", first: 0 },
    { name: "allowance_m", label: "Seam allowance", kind: "m", first: 0.015 },
  ],
  box: [
    { name: "margin_m", label: "Rubber round the piece", kind: "m", first: 0.02 },
    { name: "overlap_m", label: "Overlap of the flashing", kind: "m", first: 0.03 },
    { name: "chunks_off_m", label: "Old rubber to the piece, at least", kind: "m", first: 0.01 },
  ],
  visor: [
    { name: "overlap_m", label: "Overlap on the husk", kind: "m", first: 0.012 },
    { name: "thickness_m", label: "Thickness of the sheet", kind: "m", first: 0.0015 },
  ],
  trim: [{ name: "width_m", label: "Width of a stencil", kind: "m", first: 0.03 }],
};

interface Following {
  label: string;
  first: boolean;
  options: { value: boolean; label: string }[];
}

/** Kinds that are straight or follow the shape. */
export const FOLLOWING: Partial<Record<PatternKind, Following>> = {
  "part-line": {
    label: "Part line",
    first: false,
    options: [
      { value: false, label: "in one plane" },
      { value: true, label: "follows the widest points" },
    ],
  },
  box: {
    label: "Outline",
    first: true,
    options: [
      { value: true, label: "follows the piece" },
      { value: false, label: "straight" },
    ],
  },
};

/** A sheet as it lies in most workshops. */
export const SHEET = { sheet_width_m: 1, sheet_height_m: 0.7 };

/** Of the sheets that parts are cut from. */
export const SHEET_FIELDS = [
  { name: "sheet_width_m", label: "Sheet width" },
  { name: "sheet_height_m", label: "Sheet height" },
] as const;

/** Sheets that visors are cut from; how sharply each bends the server knows. */
export const MATERIALS = [
  { value: "polycarbonate", label: "polycarbonate" },
  { value: "petg", label: "PET-G" },
  { value: "acrylic", label: "acrylic" },
  { value: "card", label: "card or paper" },
];

export const PAPERS = [
  { value: "a4", label: "A4" },
  { value: "a3", label: "A3" },
  { value: "letter", label: "Letter" },
];
