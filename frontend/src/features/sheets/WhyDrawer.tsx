import { Button, Drawer } from "antd";

import type { Why } from "../../api/client";
import { number, quantity, type QuantityKind } from "../../shared/format";
import { useUnits } from "../../shared/units";

/** A figure opened: the rule in words, its inputs, where each came from, and its band. */
export function WhyDrawer({ why, onClose }: { why: Why | null; onClose: () => void }) {
  const system = useUnits((state) => state.system);
  const show = (value: number, unit: string) => quantity(value, unit as QuantityKind, system);
  // A difference of temperatures has no zero of its own.
  const width = (value: number, unit: string) =>
    unit === "K" ? `${number(value + 273.15, "K", "metric")} °C` : show(value, unit);
  return (
    <Drawer title={why ? `Why: ${why.title}` : ""} open={why !== null} onClose={onClose}>
      {why && (
        <div className="why">
          <p className="why-figure">{show(why.figure.value, why.figure.unit)}</p>
          {why.band?.[0] !== undefined && why.band[1] !== undefined && (
            <p>
              Likely between {show(why.band[0], why.figure.unit)} and{" "}
              {show(why.band[1], why.figure.unit)}.
            </p>
          )}
          <p>{why.words}</p>
          <table>
            <thead>
              <tr>
                <th scope="col">From</th>
                <th scope="col">Value</th>
                <th scope="col">Origin</th>
              </tr>
            </thead>
            <tbody>
              {why.inputs.map((input) => (
                <tr key={input.name}>
                  <th scope="row">{input.name}</th>
                  <td>
                    {show(input.value, input.unit)}
                    {input.band !== null && (
                      <div className="faint">give or take {width(input.band, input.unit)}</div>
                    )}
                  </td>
                  <td>{input.source}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <p>
            <Button onClick={onClose}>Close</Button>
          </p>
        </div>
      )}
    </Drawer>
  );
}
