import { Input } from "antd";
import { useId, type ReactNode } from "react";

import { fieldText, unitOf, type QuantityKind } from "./format";
import { useUnits } from "./units";
import { useTyped } from "./useTyped";

interface Properties {
  label: ReactNode;
  kind: QuantityKind;
  value: number;
  onChange: (value: number) => void;
  /** What the server says is wrong with it. */
  problem?: string | undefined;
  hint?: ReactNode;
  /** Tells the form that what stands here is not a number. */
  onUnreadable?: (unreadable: boolean) => void;
}

/** A labelled number with its unit; what cannot be read is said and never replaced in silence. */
export function QuantityField({
  label,
  kind,
  value,
  onChange,
  problem,
  hint,
  onUnreadable,
}: Properties) {
  const id = useId();
  const system = useUnits((state) => state.system);
  const shown = fieldText(value, kind, system);
  const { typed, type } = useTyped({
    kind,
    value,
    system,
    example: shown,
    onChange,
    onUnreadable,
  });
  // What was typed stands as long as it means the value; an outside change replaces it.
  const stands = typed && typed.value === value && typed.system === system ? typed : null;
  const text = stands?.text ?? shown;
  const wrong = stands?.wrong ?? problem;

  return (
    <div className="field">
      <label htmlFor={id}>{label}</label>
      <Input
        id={id}
        value={text}
        inputMode="decimal"
        autoComplete="off"
        suffix={unitOf(kind, system)}
        status={wrong ? "error" : ""}
        aria-invalid={Boolean(wrong)}
        aria-describedby={`${id}-hint`}
        onChange={(event) => type(event.target.value)}
      />
      <div id={`${id}-hint`} className={wrong ? "hint wrong" : "hint"} aria-live="polite">
        {wrong ?? hint}
      </div>
    </div>
  );
}
