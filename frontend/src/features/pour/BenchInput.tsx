import type { InputHTMLAttributes } from "react";

interface Properties extends Omit<InputHTMLAttributes<HTMLInputElement>, "onChange"> {
  onText: (text: string) => void;
  /** What is typed cannot be read. */
  wrong?: boolean;
  unit?: string;
}

/** A field for gloves; the browser's own, as the bench loads as little as it can. */
export function BenchInput({ onText, wrong = false, unit, ...others }: Properties) {
  return (
    <span className="bench-input">
      <input
        autoComplete="off"
        aria-invalid={wrong}
        onChange={(event) => onText(event.target.value)}
        {...others}
      />
      {unit}
    </span>
  );
}
