import { Button } from "antd";

import { quantity } from "../../shared/format";
import { QuantityField } from "../../shared/QuantityField";
import { useUnits } from "../../shared/units";

interface Properties {
  wallM: number;
  coats: readonly number[];
  problem?: string | undefined;
  onChange: (coats: number[]) => void;
  onUnreadable: (unreadable: boolean) => void;
}

/** A thickness for each coat, the print coat first; what they come to stands under them. */
export function OwnCoats({ wallM, coats, problem, onChange, onUnreadable }: Properties) {
  const system = useUnits((state) => state.system);
  const sum = coats.reduce((all, one) => all + one, 0);
  return (
    <fieldset className="own-coats">
      <legend>Your coats, the print coat first</legend>
      {coats.map((coat, at) => (
        <QuantityField
          key={at}
          label={`Coat ${at + 1}`}
          kind="m"
          value={coat}
          onChange={(value) => onChange(coats.map((one, which) => (which === at ? value : one)))}
          onUnreadable={onUnreadable}
        />
      ))}
      <p className={problem ? "hint wrong" : "hint"} aria-live="polite">
        {problem ??
          `They come to ${quantity(sum, "m", system)} of ${quantity(wallM, "m", system)}.`}
      </p>
      <Button size="small" onClick={() => onChange([...coats, coats[coats.length - 1] ?? 0.003])}>
        Add a coat
      </Button>{" "}
      <Button size="small" disabled={coats.length < 2} onClick={() => onChange(coats.slice(0, -1))}>
        Remove a coat
      </Button>
    </fieldset>
  );
}
