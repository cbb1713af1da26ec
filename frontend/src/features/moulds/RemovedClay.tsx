import { Radio } from "antd";

import type { NewMould } from "../../api/client";
import { QuantityField } from "../../shared/QuantityField";

type Clay = NonNullable<NewMould["clay"]>;

interface Properties {
  clay: Clay | null;
  problem?: string | undefined;
  onChange: (clay: Clay | null) => void;
  onUnreadable: (unreadable: boolean) => void;
}

const FIRST: Record<"mass" | "size", Clay> = {
  mass: { mass_kg: 2, size_m: null },
  size: { mass_kg: null, size_m: [0.1, 0.1, 0.1] },
};
const SIDES = ["Length", "Width", "Height"];

/** The clay that was taken off again says best what rubber goes in its place. */
export function RemovedClay({ clay, problem, onChange, onUnreadable }: Properties) {
  const way = clay === null ? "none" : clay.size_m ? "size" : "mass";
  const [length, width, height] = clay?.size_m ?? [0, 0, 0];
  const sides = [length, width, height];
  return (
    <fieldset>
      <legend>The clay, once it is off again</legend>
      <Radio.Group
        aria-label="How the clay is measured"
        value={way}
        onChange={(event) => {
          const next = event.target.value as "none" | "mass" | "size";
          onChange(next === "none" ? null : FIRST[next]);
        }}
        options={[
          { value: "none", label: "not yet: by the face" },
          { value: "mass", label: "weighed" },
          { value: "size", label: "packed to a block" },
        ]}
      />
      {way === "mass" && (
        <QuantityField
          label="The clay weighs"
          kind="load"
          value={clay?.mass_kg ?? 0}
          onChange={(mass_kg) => onChange({ mass_kg, size_m: null })}
          onUnreadable={onUnreadable}
        />
      )}
      {way === "size" &&
        SIDES.map((side, at) => (
          <QuantityField
            key={side}
            label={side}
            kind="m"
            value={sides[at] ?? 0}
            onChange={(value) => {
              const [a = 0, b = 0, c = 0] = sides.map((one, which) => (which === at ? value : one));
              onChange({ mass_kg: null, size_m: [a, b, c] });
            }}
            onUnreadable={onUnreadable}
          />
        ))}
      {problem && <p className="hint wrong">{problem}</p>}
    </fieldset>
  );
}
