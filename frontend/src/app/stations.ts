/** The stations that work, each with the key that goes there after G. */
export const STATIONS = [
  { name: "Today", path: "/today", key: "t" },
  { name: "Pieces", path: "/pieces", key: "p" },
  { name: "Moulds", path: "/moulds", key: "m" },
  { name: "Shelf", path: "/shelf", key: "s" },
  { name: "Cast sheets", path: "/sheets", key: "c" },
  { name: "Pour", path: "/pour", key: "o" },
  { name: "Log", path: "/log", key: "l" },
] as const;
