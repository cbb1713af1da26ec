import { Select } from "antd";
import { useState } from "react";
import { Link } from "react-router";

import type { CastCharts, ControlChart } from "../../api/client";
import { counted, quantity, withUnit, type QuantityKind } from "../../shared/format";
import { useUnits } from "../../shared/units";

const WIDTH = 560;
const HEIGHT = 150;
const LEFT = 92;
const PAD = 12;

type Cast = CastCharts["casts"][number];

interface Properties {
  charts: CastCharts;
}

/** Control charts of casts in the order they came: weight, minutes, wall. */
export function Charts({ charts }: Properties) {
  const read = charts.casts.filter((one) => one.wall_m !== null);
  const timed = charts.casts.filter((one) => one.minutes_s !== null);
  if (!charts.weight)
    return (
      <p className="faint">
        A control chart wants four casts; there {charts.casts.length === 1 ? "is" : "are"}{" "}
        {charts.casts.length}.
      </p>
    );
  return (
    <>
      <p className="faint">
        {charts.sheet_name}, the newest {counted(charts.casts.length, "cast")}.
      </p>
      <Chart title="Weight of the cast" kind="kg" chart={charts.weight} casts={charts.casts} />
      {charts.minutes && (
        <Chart
          title="From the first mix to the last gel"
          kind="s"
          chart={charts.minutes}
          casts={timed}
        />
      )}
      {charts.wall && (
        <Chart title="Wall as it was read, mean" kind="m" chart={charts.wall} casts={read} />
      )}
      <AtPlaces charts={charts} />
    </>
  );
}

/** The wall at one place, chosen among those that were read often. */
function AtPlaces({ charts }: Properties) {
  const [chosen, setChosen] = useState<string | null>(null);
  const shown = charts.places.find((one) => one.place === chosen) ?? charts.places[0];
  if (!shown) return null;
  const casts = shown.pours.flatMap((id) => charts.casts.filter((one) => one.pour_id === id));
  return (
    <>
      <div className="field at-place">
        <label htmlFor="chart-place">Wall at one place</label>
        <Select
          id="chart-place"
          value={shown.place}
          onChange={setChosen}
          options={charts.places.map((one) => ({ value: one.place, label: one.place }))}
        />
      </div>
      <Chart title={`Wall at the ${shown.place}`} kind="m" chart={shown.chart} casts={casts} />
    </>
  );
}

interface ChartProperties {
  title: string;
  kind: QuantityKind;
  chart: ControlChart;
  casts: readonly Cast[];
}

const percent = (share: number) => withUnit((100 * share).toFixed(1), "%");

/** One measure: its middle and limits, each cast a dot, those that break a rule larger and named. */
function Chart({ title, kind, chart, casts }: ChartProperties) {
  const system = useUnits((state) => state.system);
  const said = (value: number) => quantity(value, kind, system);
  const { values, middle, low, high, signals, drift } = chart;
  const bottom = Math.min(low, ...values);
  const top = Math.max(high, ...values);
  const x = (at: number) =>
    LEFT + PAD + (at / Math.max(values.length - 1, 1)) * (WIDTH - LEFT - 2 * PAD);
  const y = (value: number) =>
    HEIGHT - PAD - ((value - bottom) / Math.max(top - bottom, 1e-12)) * (HEIGHT - 2 * PAD);
  const nameOf = (at: number) => {
    const number = casts[at]?.number;
    return number ? `cast ${number}` : `pour ${at + 1}`;
  };
  return (
    <figure className="control-chart">
      <figcaption>{title}</figcaption>
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        role="img"
        aria-label={`${title}, ${counted(values.length, "cast")}`}
      >
        {[high, middle, low].map((value) => (
          <g key={value}>
            <line
              className={value === middle ? "middle" : "limit"}
              x1={LEFT}
              x2={WIDTH}
              y1={y(value)}
              y2={y(value)}
            />
            <text x={LEFT - 6} y={y(value) + 4} textAnchor="end">
              {said(value)}
            </text>
          </g>
        ))}
        <polyline points={values.map((value, at) => `${x(at)},${y(value)}`).join(" ")} />
        {values.map((value, at) => {
          const isOut = signals.some((one) => one.at === at);
          return (
            <circle
              key={at}
              className={isOut ? "signal" : undefined}
              cx={x(at)}
              cy={y(value)}
              r={isOut ? 6 : 3.5}
            >
              <title>{`${nameOf(at)}: ${said(value)}`}</title>
            </circle>
          );
        })}
      </svg>
      {drift && (
        <p className="due">
          It drifts: {percent(Math.abs(drift.share))} {drift.share > 0 ? "more" : "less"} over{" "}
          {counted(drift.values, "cast")} ({(100 * Math.min(drift.low, drift.high)).toFixed(1)} to{" "}
          {percent(Math.max(drift.low, drift.high))}).
        </p>
      )}
      {signals.length > 0 ? (
        <p>
          {signals.map((one, at) => {
            const cast = casts[one.at];
            return (
              <span key={one.at}>
                {at > 0 && "; "}
                {cast ? (
                  <Link to={`/log/${cast.pour_id}`}>{nameOf(one.at)}</Link>
                ) : (
                  nameOf(one.at)
                )}: {one.words}
              </span>
            );
          })}
        </p>
      ) : (
        !drift && <p className="faint">In control: every cast within the limits.</p>
      )}
    </figure>
  );
}
