import { useQuery } from "@tanstack/react-query";
import { Link, useSearchParams } from "react-router";

import type { Beside, Difference } from "../../api/client";
import {
  carried,
  clockTime,
  day,
  number,
  quantity,
  unitOf,
  withUnit,
  type QuantityKind,
} from "../../shared/format";
import { Failed, Loading } from "../../shared/states";
import { useUnits } from "../../shared/units";
import { besideQuery } from "./learnedQueries";
import { STATUS_WORDS } from "./LogPage";

/** Off the usual by so many usual spreads is unusual. */
const UNUSUAL = 2;

/** Two to four pours beside each other: what differed, the most unusual first; what came of it. */
export function BesidePage() {
  const [search] = useSearchParams();
  const pours = search.getAll("pour");
  const beside = useQuery(besideQuery(pours));
  return (
    <section className="page">
      <header>
        <h1>Compare pours</h1>
        <Link to="/log">Back to the log</Link>
      </header>
      {pours.length === 0 && <p>Tick two to four pours in the log.</p>}
      {beside.isLoading && <Loading what="the pours" />}
      {beside.error && <Failed error={beside.error} />}
      {beside.data && <Table beside={beside.data} />}
    </section>
  );
}

function Table({ beside }: { beside: Beside }) {
  const system = useUnits((state) => state.system);
  const rows: [string, (pour: Beside["pours"][number], at: number) => string][] = [
    ["Came out", (one) => (one.cast_number ? `cast ${one.cast_number}` : STATUS_WORDS[one.status])],
    ["Mixed", (one) => quantity(one.poured_kg, "kg", system)],
    ["Cast weight", (one) => (one.cast_kg === null ? "none" : carried(one.cast_kg, system))],
    ["Planned", (one) => carried(one.planned_cast_kg, system)],
    [
      "Wall as read, mean",
      (_, at) => {
        const wall = beside.mean_walls_m[at];
        return wall == null ? "not read" : quantity(wall, "m", system);
      },
    ],
    ["Faults", (one) => one.faults.join(", ") || "none noted"],
  ];
  return (
    <table className="beside pours-beside stacks">
      <thead>
        <tr>
          <td />
          {beside.pours.map((one) => (
            <th key={one.id} scope="col">
              <Link to={`/log/${one.id}`}>{one.sheet_name}</Link>
              <br />
              {day(one.started_at)}, {clockTime(one.started_at)}
            </th>
          ))}
          <th scope="col">Usual value</th>
        </tr>
      </thead>
      <tbody>
        <tr>
          <th colSpan={beside.pours.length + 2} scope="colgroup">
            What differed, the most unusual first
          </th>
        </tr>
        {beside.differences.length === 0 && (
          <tr>
            <td colSpan={beside.pours.length + 2}>Nothing that is known of them differs.</td>
          </tr>
        )}
        {beside.differences.map((one) => (
          <DifferenceRow key={one.input.key} difference={one} pours={beside.pours} />
        ))}
        <tr>
          <th colSpan={beside.pours.length + 2} scope="colgroup">
            What came of it
          </th>
        </tr>
        {rows.map(([name, told]) => (
          <tr key={name}>
            <th scope="row">{name}</th>
            {beside.pours.map((one, at) => (
              <td key={one.id} data-label={titleOf(one)}>
                <b>{told(one, at)}</b>
              </td>
            ))}
            <td />
          </tr>
        ))}
      </tbody>
    </table>
  );
}

interface RowProperties {
  difference: Difference;
  pours: Beside["pours"];
}

/** A pour where it stands without its column: its day and time. */
const titleOf = (pour: Beside["pours"][number] | undefined) =>
  pour ? `${day(pour.started_at)}, ${clockTime(pour.started_at)}` : "";

function DifferenceRow({ difference, pours }: RowProperties) {
  const system = useUnits((state) => state.system);
  const { input, values, usual, unusual } = difference;
  const told = (value: number | null | undefined) => {
    if (value == null) return "not known";
    if (input.key === "room_off") return `${value > 0 ? "+" : ""}${value.toFixed(1)} K`;
    if (input.unit === "count") return String(Math.round(value));
    if (input.unit === "share") return withUnit((100 * value).toFixed(1), "%");
    const kind = input.unit as QuantityKind;
    return kind === "K"
      ? withUnit(number(value, kind, system), unitOf(kind, system))
      : quantity(value, kind, system);
  };
  return (
    <tr>
      <th scope="row">{input.title}</th>
      {values.map((value, at) => {
        const isUnusual = Math.abs(unusual[at] ?? 0) >= UNUSUAL;
        return (
          <td
            key={at}
            className={isUnusual ? "unusual" : undefined}
            data-label={titleOf(pours[at])}
          >
            <b>{told(value)}</b>
            {isUnusual && <small> unusual</small>}
          </td>
        );
      })}
      <td data-label="Usual value">{usual === null ? "" : told(usual)}</td>
    </tr>
  );
}
