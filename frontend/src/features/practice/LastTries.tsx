import { clockTime, day, quantity, weighed } from "../../shared/format";
import { useUnits } from "../../shared/units";
import { useTries } from "./queries";

interface Properties {
  exercises: readonly { key: string; name: string }[];
}

/** One's last tries in this browser. */
export function LastTries({ exercises }: Properties) {
  const tries = useTries((state) => state.tries);
  const system = useUnits((state) => state.system);
  if (tries.length === 0) return null;
  const share = (value: number) => quantity(Math.round(1000 * value) / 1000, "share", system);
  return (
    <section aria-labelledby="last-tries">
      <h2 id="last-tries">Your last tries</h2>
      <table className="beside stacks">
        <thead>
          <tr>
            <th scope="col">When</th>
            <th scope="col">Exercise</th>
            <th scope="col">Least on 95&nbsp;%, of the mean</th>
            <th scope="col">Never wet</th>
            <th scope="col">Over the rim</th>
            <th scope="col">Met</th>
          </tr>
        </thead>
        <tbody>
          {tries.map((one) => (
            <tr key={one.at}>
              <th scope="row">
                {day(one.at)}, {clockTime(one.at)}
              </th>
              <td data-label="Exercise">
                {exercises.find((exercise) => exercise.key === one.exercise)?.name}
                <div className="faint">{one.piece}</div>
              </td>
              <td data-label={"Least on 95\u00a0%, of the mean"}>{share(one.evenness)}</td>
              <td data-label="Never wet">{share(one.never_wet)}</td>
              <td data-label="Over the rim">{weighed(one.spilt_kg, 0.0001)}</td>
              <td data-label="Met">{one.reached ? "yes" : "not yet"}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
