import { Button } from "antd";
import { useState } from "react";

import type { Amount } from "../../api/client";
import { Dialog } from "../../shared/Dialog";
import { number, quantity, withUnit, type QuantityKind } from "../../shared/format";
import { useUnits } from "../../shared/units";

/** A figure opened: its formula in words, its terms, where each came from, and its band. */
export function WhyDrawer({ amount, onClose }: { amount: Amount | null; onClose: () => void }) {
  return (
    <Dialog
      side
      title={amount ? `Why: ${capital(amount.name)}` : ""}
      width={560}
      open={amount !== null}
      onClose={onClose}
    >
      {amount && <Opened key={amount.key} amount={amount} onClose={onClose} />}
    </Dialog>
  );
}

/** The figure asked for, and whichever of its terms was opened last. */
function Opened({ amount, onClose }: { amount: Amount; onClose: () => void }) {
  const [path, setPath] = useState<readonly Amount[]>([amount]);
  const shown = path[path.length - 1] ?? amount;
  const before = path.slice(0, -1);
  return (
    <div className="why">
      {before.length > 0 && (
        <p className="why-path">
          <Button size="small" onClick={() => setPath(before)}>
            Back to {before[before.length - 1]?.name}
          </Button>{" "}
          <b>{capital(shown.name)}</b>
        </p>
      )}
      <Figure amount={shown} told={before.length > 0} />
      {shown.formula && <p className="why-formula">= {shown.formula}</p>}
      {shown.words && <p>{shown.words}</p>}
      <table>
        <thead>
          <tr>
            <th scope="col">From</th>
            <th scope="col">Value</th>
            <th scope="col">Origin</th>
          </tr>
        </thead>
        <tbody>
          {shown.terms.map((term) => (
            <Term key={term.name} term={term} onOpen={() => setPath([...path, term])} />
          ))}
        </tbody>
      </table>
      <p>
        <Button onClick={onClose}>Close</Button>
      </p>
    </div>
  );
}

/** How large, and how sure; how that comes about is said once. */
function Figure({ amount, told }: { amount: Amount; told: boolean }) {
  const system = useUnits((state) => state.system);
  const show = (value: number) => quantity(value, amount.unit as QuantityKind, system);
  return (
    <>
      <p className="why-figure">{show(amount.value)}</p>
      {amount.low < amount.high && (
        <p>
          Likely between {show(amount.low)} and {show(amount.high)}
          {told ? "." : ": what the terms may be off by, independent ones added in squares."}
        </p>
      )}
    </>
  );
}

function Term({ term, onOpen }: { term: Amount; onOpen: () => void }) {
  const system = useUnits((state) => state.system);
  const half = (term.high - term.low) / 2;
  // A difference of temperatures has no zero of its own.
  const width =
    term.unit === "K"
      ? withUnit(number(half + 273.15, "K", "metric"), "°C")
      : quantity(half, term.unit as QuantityKind, system);
  return (
    <tr>
      <th scope="row">
        {term.terms.length === 0 ? (
          term.name
        ) : (
          <button type="button" className="figure" onClick={onOpen} title={`Why? ${term.name}`}>
            {term.name}
          </button>
        )}
      </th>
      <td>
        {quantity(term.value, term.unit as QuantityKind, system)}
        {half > 0 && <div className="faint">give or take {width}</div>}
      </td>
      <td>{term.source}</td>
    </tr>
  );
}

const capital = (words: string) => words.charAt(0).toUpperCase() + words.slice(1);
