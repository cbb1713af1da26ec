import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useState } from "react";

import type { PatternTry, Practised, Try } from "../../api/client";
import { bound, countdown, quantity, weighed, withUnit } from "../../shared/format";
import { Failed } from "../../shared/states";
import { useUnits } from "../../shared/units";
import { patternsQuery } from "./queries";

/** What a try came to: whether the exercise was met, what is thin and when it was lost. */
export function Outcome({ tray, practised }: { tray: Try; practised: Practised }) {
  const system = useUnits((state) => state.system);
  const isMet = practised.judged.every((one) => one.is_reached);
  return (
    <section className="tray-outcome" aria-label="What came of it">
      <h2>{isMet ? "Done" : "Not yet"}</h2>
      <ul className="findings">
        {practised.judged.map((one) => (
          <li key={one.said} className={one.is_reached ? "" : "warning"}>
            {one.is_reached ? "✓ " : ""}
            {bound(one.said)}
          </li>
        ))}
      </ul>
      {practised.lost.length > 0 && (
        <>
          <h2>Thin</h2>
          <ol>
            {practised.lost.map(({ place, lost_s }) => (
              <li key={place.at_m.join()}>
                {place.name}: {quantity(place.wall_m, "m", system)},{" "}
                {lost_s === null
                  ? "never as thick as wished"
                  : `lost at ${countdown(lost_s)} after the pour`}
              </li>
            ))}
          </ol>
        </>
      )}
      <Patterns tray={tray} practised={practised} />
      <p>
        <a href={`/api/v1/practice/${tray.id}/motion.json`} download>
          How you held it, as a motion file
        </a>
      </p>
      <p className="faint">
        Estimate: one coat of {weighed(tray.charge_kg, 0.0001)} on {withUnit(tray.faces, "faces")},
        for a mean of {quantity(tray.target_m, "m", system)}.
      </p>
    </section>
  );
}

/** The same coat by the shipped patterns, beside one's own. */
function Patterns({ tray, practised }: { tray: Try; practised: Practised }) {
  const [isAsked, setAsked] = useState(false);
  const found = useQuery({ ...patternsQuery(tray.id), enabled: isAsked });
  if (!isAsked) {
    return <Button onClick={() => setAsked(true)}>Compare with the patterns</Button>;
  }
  if (found.error) return <Failed error={found.error} />;
  const own: PatternTry = { motion: "own", name: "you", practised, said: "" };
  return (
    <table className="beside stacks">
      <caption>The same coat, rolled by the patterns as they ship</caption>
      <thead>
        <tr>
          <th scope="col">Rolled by</th>
          <th scope="col">Least on 95&nbsp;%, of the mean</th>
          <th scope="col">Never wet</th>
          <th scope="col">Over the rim</th>
        </tr>
      </thead>
      <tbody>
        {[own, ...(found.data?.patterns ?? [])].map((one) => (
          <PatternRow key={one.motion} tried={one} />
        ))}
      </tbody>
      {found.isPending && (
        <tfoot>
          <tr>
            <td colSpan={4} role="status">
              The patterns are being rolled …
            </td>
          </tr>
        </tfoot>
      )}
    </table>
  );
}

function PatternRow({ tried }: { tried: PatternTry }) {
  const system = useUnits((state) => state.system);
  const { name, practised, said } = tried;
  const share = (value: number) => quantity(Math.round(1000 * value) / 1000, "share", system);
  return (
    <tr>
      <th scope="row">{name}</th>
      {practised ? (
        <>
          <td data-label={"Least on 95\u00a0%, of the mean"}>
            <b>{share(practised.evenness)}</b>
          </td>
          <td data-label="Never wet">{share(practised.wall.never_wet)}</td>
          <td data-label="Over the rim">{weighed(practised.wall.spilt_kg, 0.0001)}</td>
        </>
      ) : (
        <td className="whole" colSpan={3}>
          {said}
        </td>
      )}
    </tr>
  );
}
