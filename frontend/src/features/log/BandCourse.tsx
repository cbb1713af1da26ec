import type { Learned } from "../../api/client";

const WIDTH = 240;
const HEIGHT = 60;
const PAD = 4;

/** How a value and its band went with each pour: first what all makers know, last what stands. */
export function BandCourse({ learned }: { learned: Learned }) {
  const steps = [learned.before, ...learned.course];
  const ends = steps.flatMap((one) => [one.low, one.high]);
  const [bottom, top] = [Math.min(...ends), Math.max(...ends)];
  const x = (at: number) => PAD + (at / Math.max(steps.length - 1, 1)) * (WIDTH - 2 * PAD);
  const y = (value: number) =>
    HEIGHT - PAD - ((value - bottom) / Math.max(top - bottom, 1e-9)) * (HEIGHT - 2 * PAD);
  const upper = steps.map((one, at) => `${x(at)},${y(one.high)}`);
  const lower = steps.map((one, at) => `${x(at)},${y(one.low)}`).reverse();
  return (
    <svg
      className="band-course"
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      role="img"
      aria-label={`Its band over the last ${learned.course.length} pours: narrower to the right`}
    >
      <polygon points={[...upper, ...lower].join(" ")} />
      <polyline points={steps.map((one, at) => `${x(at)},${y(one.value)}`).join(" ")} />
    </svg>
  );
}
