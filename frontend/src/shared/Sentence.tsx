import type { SentenceText } from "../api/client";
import { bound, quantity, type QuantityKind, type UnitSystem } from "./format";
import { useUnits } from "./units";

/** A sentence of the core, its quantities in the given units. */
export function sentenceIn(text: SentenceText, system: UnitSystem): string {
  return bound(text.template).replace(/\{(\w+)\}/g, (whole, name: string) => {
    const value = text.values[name];
    return value ? quantity(value.value, value.unit as QuantityKind, system) : whole;
  });
}

/** A sentence of the core, its quantities in the reader's units. */
export function Sentence({ text }: { text: SentenceText }) {
  const system = useUnits((state) => state.system);
  return sentenceIn(text, system);
}
