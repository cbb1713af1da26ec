import type { Cure, Curve } from "../../api/client";
import { duration, number, unitOf } from "../../shared/format";
import { useUnits } from "../../shared/units";

const WIDTH = 600;
const HEIGHT = 150;
const LEFT = 52;
const BOTTOM = 20;
/** From water-thin to a paste; what is thicker no longer flows. [Pa s] */
const THINNEST = 0.03;
const THICKEST = 300;

/** Viscosity in the cup, and temperature in cup and film, over the same minutes. */
export function CureCurves({ cure }: { cure: Cure }) {
  const system = useUnits((state) => state.system);
  const until = 1.25 * Math.max(cure.gel_film_s, cure.gel_cup_s);
  const x = (seconds: number) => LEFT + (Math.min(seconds, until) / until) * (WIDTH - LEFT - 8);
  const kelvins = [...cure.curve.temperature_k, ...cure.film_curve.temperature_k];
  const [coldest, hottest] = [Math.min(...kelvins) - 2, Math.max(...kelvins) + 4];
  const temperature = (kelvin: number) =>
    8 + (1 - (kelvin - coldest) / (hottest - coldest)) * (HEIGHT - 8 - BOTTOM);
  const viscosity = (value: number) => {
    const share = Math.log(value / THINNEST) / Math.log(THICKEST / THINNEST);
    return 8 + (1 - Math.min(Math.max(share, 0), 1)) * (HEIGHT - 8 - BOTTOM);
  };
  const marks = [
    { at: cure.working_time_s, said: "worked" },
    { at: cure.gel_film_s, said: "film gels" },
  ];
  return (
    <figure className="cure-curves">
      <figcaption>How thick it is in the cup, and on the mould (broken)</figcaption>
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} role="img" aria-label="Viscosity over time">
        {[0.1, 1, 10, 100].map((value) => (
          <g key={value} className="rule">
            <line x1={LEFT} x2={WIDTH - 8} y1={viscosity(value)} y2={viscosity(value)} />
            <text x={LEFT - 6} y={viscosity(value) + 4} textAnchor="end">
              {value} Pa s
            </text>
          </g>
        ))}
        <Marks marks={marks} x={x} until={until} />
        <path
          className="cup"
          d={line(cure.curve, cure.curve.viscosity_pa_s, x, viscosity, until)}
        />
        <path
          className="film"
          d={line(cure.film_curve, cure.film_curve.viscosity_pa_s, x, viscosity, until)}
        />
      </svg>
      <figcaption>How warm it gets in the cup, and on the mould (broken)</figcaption>
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} role="img" aria-label="Temperature over time">
        {[coldest + 2, (coldest + hottest) / 2, hottest - 4].map((value) => (
          <g key={value} className="rule">
            <line x1={LEFT} x2={WIDTH - 8} y1={temperature(value)} y2={temperature(value)} />
            <text x={LEFT - 6} y={temperature(value) + 4} textAnchor="end">
              {number(value, "K", system)} {unitOf("K", system)}
            </text>
          </g>
        ))}
        <Marks marks={marks} x={x} until={until} />
        <path
          className="cup"
          d={line(cure.curve, cure.curve.temperature_k, x, temperature, until)}
        />
        <path
          className="film"
          d={line(cure.film_curve, cure.film_curve.temperature_k, x, temperature, until)}
        />
      </svg>
    </figure>
  );
}

interface MarksProperties {
  marks: readonly { at: number; said: string }[];
  x: (seconds: number) => number;
  until: number;
}

function Marks({ marks, x, until }: MarksProperties) {
  return marks.map(({ at, said }) =>
    at < until ? (
      <g key={said} className="mark">
        <line x1={x(at)} x2={x(at)} y1={8} y2={HEIGHT - BOTTOM} />
        <text x={x(at)} y={HEIGHT - 6} textAnchor="middle">
          {said} {duration(at)}
        </text>
      </g>
    ) : null,
  );
}

function line(
  curve: Curve,
  values: readonly (number | null)[],
  x: (seconds: number) => number,
  y: (value: number) => number,
  until: number,
): string {
  const points = curve.t_s
    .map((seconds, at) => ({ seconds, value: values[at] }))
    .filter(
      (one): one is { seconds: number; value: number } => one.value != null && one.seconds <= until,
    );
  return points
    .map((one, at) => `${at ? "L" : "M"}${x(one.seconds).toFixed(1)} ${y(one.value).toFixed(1)}`)
    .join("");
}
