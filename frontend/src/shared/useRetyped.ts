import { useState } from "react";

import { fieldText, readField, type QuantityKind } from "./format";
import { useUnits } from "./units";

/**
 * Writes what is typed anew when the units change: other figures, the same lengths. What cannot be
 * read stays as it was typed.
 */
export function useRetyped(kind: QuantityKind, write: (retype: (text: string) => string) => void) {
  const system = useUnits((state) => state.system);
  const [typedIn, setTypedIn] = useState(system);
  if (typedIn === system) return;
  setTypedIn(system);
  write((text) => {
    const value = readField(text, kind, typedIn);
    return value === null ? text : fieldText(value, kind, system);
  });
}
