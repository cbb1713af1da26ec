import { useState } from "react";

import type { Limit, Plan } from "../../api/client";
import { carried } from "../../shared/format";
import { useUnits } from "../../shared/units";

/** What a coat that keeps a limit is, in the words of the bench; "not" before it says it breaks it. */
export const LIMITS: Record<Limit, string> = {
  reach: "enough to reach everywhere",
  scale: "weighed to 1\u00a0%",
  carry: "staying on the wall until it sets",
  time: "mixed and spread in time",
  rim: "staying under the rim",
  cup: "fitting the cups",
};
const LOWER: readonly Limit[] = ["reach", "scale"];
const ORDER: readonly Limit[] = ["reach", "scale", "carry", "time", "cup", "rim"];

/** How much one coat may be: each limit as far as it goes, the largest charge across all. */
export function LimitBars({ plan }: { plan: Plan }) {
  const [shown, setShown] = useState(false);
  const system = useUnits((state) => state.system);
  const largest = plan.coats[plan.largest.number - 1];
  if (!largest) return null;
  const at = (limit: Limit) => plan.limits[`${limit}_kg`];
  // What is far away is cut off: only the near limits matter.
  const end = 2.2 * Math.max(largest.charge_kg, at("carry"), at("reach"));
  const percent = (kg: number) => Math.min(100, (kg / end) * 100);
  return (
    <details className="limits" onToggle={(event) => setShown(event.currentTarget.open)}>
      <summary>
        What bounds a coat: <b>{LIMITS[largest.binding_limit]}</b>
      </summary>
      {shown && (
        <table>
          <tbody>
            {ORDER.map((limit) => {
              const lower = LOWER.includes(limit);
              const broken = !largest.fits && limit === largest.binding_limit;
              return (
                <tr key={limit} className={broken ? "due" : ""}>
                  <th scope="row">{LIMITS[limit]}</th>
                  <td className="bar">
                    <i
                      style={
                        lower
                          ? { left: `${percent(at(limit))}%`, right: 0 }
                          : { left: 0, width: `${percent(at(limit))}%` }
                      }
                    />
                    <em style={{ left: `${percent(largest.charge_kg)}%` }} />
                  </td>
                  <td>
                    {lower ? "from" : "up to"} {carried(at(limit), system)}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
      <p className="faint">The line is the largest charge, {carried(largest.charge_kg, system)}.</p>
    </details>
  );
}
