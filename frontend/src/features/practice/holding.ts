/** How a tray is held by pointer, keys or buttons: so far over, to one side. */
export interface Held {
  /** Of the opening from upright. [rad] */
  tilt: number;
  /** Round the mould's own axis, the side that is lowest. [rad] */
  side: number;
}

export const UPRIGHT: Held = { tilt: 0, side: 0 };

/** A held key tilts and turns so fast. [rad/s] */
const TILTS = 1.1;
const TURNS = 2.2;
/** A pointer that moves by one pixel. [rad] */
const PER_PIXEL = 0.008;
/** Upside down and a little further. [rad] */
const FURTHEST = 1.2 * Math.PI;

const WAYS: Record<string, Held> = {
  ArrowUp: { tilt: 1, side: 0 },
  ArrowDown: { tilt: -1, side: 0 },
  ArrowLeft: { tilt: 0, side: -1 },
  ArrowRight: { tilt: 0, side: 1 },
};

export const isWay = (key: string) => key in WAYS;

const within = (tilt: number) => Math.min(Math.max(tilt, 0), FURTHEST);

/** How it is held after some keys were held for a while. */
export function heldWith(held: Held, keys: Iterable<string>, seconds: number): Held {
  let { tilt, side } = held;
  for (const key of keys) {
    tilt += (WAYS[key]?.tilt ?? 0) * TILTS * seconds;
    side += (WAYS[key]?.side ?? 0) * TURNS * seconds;
  }
  return { tilt: within(tilt), side };
}

/** How it is held after a pointer dragged it: up tilts it further, across turns it. */
export function dragged(held: Held, acrossPx: number, downPx: number): Held {
  return {
    tilt: within(held.tilt - downPx * PER_PIXEL),
    side: held.side + acrossPx * PER_PIXEL,
  };
}

type Way = readonly number[];

/** Where up is, seen from the tray's mould, for what is drawn; the server works it out itself. */
export function upOf(tray: { out: Way; aside: Way; across: Way }, held: Held): Way {
  const [cos, sin] = [Math.cos(held.tilt), Math.sin(held.tilt)];
  return [0, 1, 2].map((at) => {
    const side =
      (tray.aside[at] ?? 0) * Math.cos(held.side) + (tray.across[at] ?? 0) * Math.sin(held.side);
    return (tray.out[at] ?? 0) * cos - side * sin;
  });
}
