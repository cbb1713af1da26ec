import { useQuery } from "@tanstack/react-query";
import { Checkbox, Select } from "antd";
import { useState } from "react";

import type { Piece, SheetQuestion, Wish } from "../../api/client";
import { QuantityField } from "../../shared/QuantityField";
import type { QuantityKind } from "../../shared/format";
import { materialQuery } from "../shelf/queries";
import { MaterialSelect } from "../shelf/MaterialSelect";

interface Properties {
  draft: SheetQuestion;
  pieces: Piece[];
  problems: Readonly<Record<string, string>>;
  onChange: (part: Partial<SheetQuestion>) => void;
  onWish: (part: Partial<Wish>) => void;
  onUnreadable: (is: boolean) => void;
}

type NumericWish = { [K in keyof Wish]: Wish[K] extends number ? K : never }[keyof Wish];

const FIELDS: readonly {
  field: NumericWish;
  label: string;
  kind: QuantityKind;
  hint?: string;
}[] = [
  { field: "wall_m", label: "Least wall", kind: "m" },
  {
    field: "allowance",
    label: "More, for unevenness",
    kind: "share",
    hint: "rolled walls vary by about 15 %",
  },
  { field: "room_temperature_k", label: "Room, mould and parts", kind: "K" },
  { field: "loss", label: "Loss in cup, on stick, over rim", kind: "share" },
];

/** The left column: what is wanted. */
export function Wanted(properties: Properties) {
  const { draft, pieces, problems, onChange, onWish, onUnreadable } = properties;
  const { wish } = draft;
  const [bad, setBad] = useState<ReadonlySet<string>>(new Set());
  const resin = useQuery(materialQuery(draft.material_id));
  const byVolume = resin.data?.sheet.ratio_basis === "volume";

  function note(field: string, is: boolean) {
    const next = new Set(bad);
    if (is) next.add(field);
    else next.delete(field);
    setBad(next);
    onUnreadable(next.size > 0);
  }

  const number = (field: NumericWish, label: string, kind: QuantityKind, hint?: string) => (
    <QuantityField
      key={field}
      label={label}
      kind={kind}
      value={wish[field]}
      problem={problems[field] ?? problems[`wish.${field}`]}
      hint={hint}
      onUnreadable={(is) => note(field, is)}
      onChange={(value) => onWish({ [field]: value })}
    />
  );

  return (
    <aside className="wanted" aria-label="Wanted">
      <h2>Wanted</h2>
      <div className="field">
        <label htmlFor="piece">Piece</label>
        <Select
          id="piece"
          value={draft.piece_id}
          onChange={(piece_id) => onChange({ piece_id })}
          options={pieces.map((one) => ({ value: one.id, label: one.name }))}
        />
      </div>
      <div className="field">
        <label htmlFor="resin">Resin</label>
        <MaterialSelect
          id="resin"
          value={draft.material_id}
          onChange={(material_id) => onChange({ material_id })}
        />
      </div>
      {FIELDS.map((one) => number(one.field, one.label, one.kind, one.hint))}
      {byVolume
        ? number("volume_step_m3", "Finest mark of the cup", "m3")
        : number("scale_step_kg", "Last digit of the scale", "kg")}
      <Checkbox checked={wish.worn} onChange={(event) => onWish({ worn: event.target.checked })}>
        It will be worn
      </Checkbox>
    </aside>
  );
}
