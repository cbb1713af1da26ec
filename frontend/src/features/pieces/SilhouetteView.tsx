import { Slider } from "antd";
import { useState, type KeyboardEvent, type PointerEvent } from "react";

import type { Silhouette, Station } from "../../api/client";
import { number, quantity, unitOf, type UnitSystem } from "../../shared/format";

interface ViewProperties {
  silhouette: Silhouette;
  stations: readonly Station[];
  half: boolean;
  /** A station was dragged to another height, or made wider or narrower. */
  onStation: (at: number, height_m: number, girth_m: number) => void;
}

/** The silhouette as it is seen when it is turned; its stations can be dragged on it. */
export function SilhouetteView({ silhouette, stations, half, onStation }: ViewProperties) {
  const [turn, setTurn] = useState(0);
  const angle = (turn * Math.PI) / 180;
  const { heights_m, half_widths_m, half_depths_m } = silhouette;
  // Seen from aside an ellipse is as wide as its shadow; a mask has nothing behind its edge.
  const seen = heights_m.map((height, at) => {
    const across = (half_widths_m[at] ?? 0) * Math.cos(angle);
    const deep = (half_depths_m[at] ?? 0) * Math.sin(angle);
    const shadow = Math.hypot(across, deep);
    return { height, left: half ? -Math.abs(across) : -shadow, right: shadow };
  });
  const tall = (heights_m.at(-1) ?? 0) - (heights_m[0] ?? 0);
  const wide = Math.max(...half_widths_m, ...half_depths_m);
  const line = (x: number, height: number) => `${x.toFixed(4)} ${(-height).toFixed(4)}`;
  const path = [
    ...seen.map((one) => line(one.right, one.height)),
    ...[...seen].reverse().map((one) => line(one.left, one.height)),
  ];
  const margin = 0.04 * Math.max(tall, 2 * wide);
  const box = [
    -wide - margin,
    -(heights_m.at(-1) ?? 0) - margin,
    2 * (wide + margin),
    tall + 2 * margin,
  ];
  return (
    <div>
      <svg
        className="silhouette"
        role="group"
        aria-label={`Silhouette turned by ${turn} degrees`}
        viewBox={box.join(" ")}
      >
        <path d={`M${path.join("L")}Z`} />
        {stations.map((station, at) => (
          <Handle
            key={at}
            number={at + 1}
            station={station}
            x={edgeAt(seen, station.height_m)}
            radius={0.018 * Math.max(tall, 2 * wide)}
            onMove={(height_m, girth_m) => onStation(at, height_m, girth_m)}
          />
        ))}
      </svg>
      <p className="faint">
        Drag a mark aside to change its girth, up or down to change its height; or use the arrow
        keys on it.
      </p>
      <label htmlFor="turn">Turned by {turn}°</label>
      <Slider
        id="turn"
        ariaLabelForHandle="Turn in degrees"
        min={0}
        max={90}
        value={turn}
        onChange={setTurn}
      />
    </div>
  );
}

/** What the girths come to. */
export function TapedFigures({
  silhouette,
  system,
}: {
  silhouette: Silhouette;
  system: UnitSystem;
}) {
  return (
    <dl className="figures">
      <div className="big">
        <dt>Casting face</dt>
        <dd data-figure="taped-area">
          {number(silhouette.area_m2, "m2", system)}&nbsp;<small>{unitOf("m2", system)}</small>
        </dd>
        <dd className="faint">
          ± {quantity(silhouette.band, "share", system)}; more girths make it surer
        </dd>
      </div>
      <div>
        <dt>Holds</dt>
        <dd>{quantity(silhouette.volume_m3, "m3", system)}</dd>
      </div>
    </dl>
  );
}

/** Where the right edge is at a height, between the drawn levels. */
function edgeAt(seen: readonly { height: number; right: number }[], height: number): number {
  const above = seen.findIndex((one) => one.height >= height);
  const high = seen[above] ?? seen.at(-1);
  const low = seen[above - 1] ?? high;
  if (!high || !low) return 0;
  const share = high === low ? 0 : (height - low.height) / (high.height - low.height);
  return low.right + share * (high.right - low.right);
}

interface HandleProperties {
  number: number;
  station: Station;
  x: number;
  radius: number;
  onMove: (height_m: number, girth_m: number) => void;
}

const STEP_M = 0.005;

/** A station on the silhouette: dragged with the pointer or moved with the arrow keys. */
function Handle({ number, station, x, radius, onMove }: HandleProperties) {
  function drag(event: PointerEvent<SVGCircleElement>) {
    const drawing = event.currentTarget.ownerSVGElement;
    const matrix = drawing?.getScreenCTM()?.inverse();
    if (!event.currentTarget.hasPointerCapture(event.pointerId) || !matrix) return;
    const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix);
    // The girth grows as the silhouette does.
    const wider = x > 0 ? Math.max(0.05, at.x / x) : 1;
    onMove(Math.max(0, round(-at.y)), round(station.girth_m * wider));
  }

  function press(event: KeyboardEvent) {
    const moves: Record<string, readonly [number, number]> = {
      ArrowUp: [STEP_M, 0],
      ArrowDown: [-STEP_M, 0],
      ArrowRight: [0, STEP_M],
      ArrowLeft: [0, -STEP_M],
    };
    const move = moves[event.key];
    if (!move) return;
    event.preventDefault();
    onMove(
      Math.max(0, round(station.height_m + move[0])),
      Math.max(STEP_M, round(station.girth_m + move[1])),
    );
  }

  return (
    <circle
      className="handle"
      cx={x}
      cy={-station.height_m}
      r={radius}
      tabIndex={0}
      role="slider"
      aria-label={`Girth of station ${number}`}
      aria-valuenow={Math.round(station.girth_m * 1000)}
      aria-valuetext={`${Math.round(station.girth_m * 1000)}\u00a0mm at ${Math.round(station.height_m * 1000)}\u00a0mm`}
      onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
      onPointerMove={drag}
      onKeyDown={press}
    />
  );
}

/** To a millimetre, as a tape is read. [m] */
function round(metres: number): number {
  return Math.round(metres * 1000) / 1000;
}
