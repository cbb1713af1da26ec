/** The stations that work, each with the key that goes there after G. */
export const STATIONS = [
  { name: "Today", path: "/today", key: "t", atHand: true },
  { name: "Pieces", path: "/pieces", key: "p", atHand: false },
  { name: "Moulds", path: "/moulds", key: "m", atHand: false },
  { name: "Shelf", path: "/shelf", key: "s", atHand: false },
  { name: "Cast sheets", path: "/sheets", key: "c", atHand: true },
  { name: "Pour", path: "/pour", key: "o", atHand: true },
  { name: "Log", path: "/log", key: "l", atHand: true },
  { name: "Practice", path: "/practice", key: "r", atHand: false },
] as const;
