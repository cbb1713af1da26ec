import { create } from "zustand";

/** A stop of the tour: where, and what there is to see. */
export interface Stop {
  path: string;
  title: string;
  says: string;
}

export const STOPS: readonly Stop[] = [
  {
    path: "/pieces",
    title: "Pieces: how big is it really?",
    says:
      "Everything stands on the area of the casting face. Upload the shape, or tape the piece; " +
      "openings, narrow places and what it holds are read off it.",
  },
  {
    path: "/moulds",
    title: "Moulds: will it let go?",
    says:
      "How much rubber in how many coats, how the shell is split, what locks it, where to cut. " +
      "Each mould counts its casts and says how long it is likely to last.",
  },
  {
    path: "/shelf",
    title: "Shelf: what have I, and what fits with what?",
    says:
      "Put in the data sheets of your own tins, and the lots that are open: pours draw them down. " +
      "What does not cure on what is said before it is poured.",
  },
  {
    path: "/sheets",
    title: "Cast sheets: what do I weigh, how often, and when?",
    says:
      "The heart of it. Say the least wall you want and how you turn the mould. The coats are " +
      "simulated, and every number can be asked why: press it.",
  },
  {
    path: "/practice",
    title: "Practice: how do I roll?",
    says:
      "Roll a mould on the screen before you roll one that costs money. What was thin, and when " +
      "it was lost, stands beside it.",
  },
  {
    path: "/pour",
    title: "Pour: do it, now.",
    says:
      "One step at a time, read from a metre away, with sticky gloves. A scale and a machine can " +
      "be connected; a press is kept when the network drops.",
  },
  {
    path: "/log",
    title: "Log: what happened, and what did we learn?",
    says:
      "Every pour beside its plan. Touch the cast and type the wall you measured; what your pours " +
      "teach is offered to the next sheet, and never taken unasked.",
  },
  {
    path: "/today",
    title: "Today: what is next?",
    says:
      "All clocks in one place: what sets by itself, when hands are needed, what may be begun " +
      "before that. Add what you have to cast, and begin here each morning.",
  },
];

type Go = (path: string) => unknown;

interface TourState {
  /** Which stop, or null while nobody is on the tour. */
  at: number | null;
  begin: (go: Go) => void;
  goTo: (at: number, go: Go) => void;
  end: () => void;
}

/** The tour of the stations, in the order of the work. */
export const useTour = create<TourState>()((set) => ({
  at: null,
  begin: (go) => {
    set({ at: 0 });
    go(STOPS[0]?.path ?? "/today");
  },
  goTo: (at, go) => {
    const stop = STOPS[at];
    set({ at: stop ? at : null });
    if (stop) go(stop.path);
  },
  end: () => set({ at: null }),
}));
