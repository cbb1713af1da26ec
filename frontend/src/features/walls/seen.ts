import { create } from "zustand";

interface SeenState {
  /** A place of the piece that every view of it turns towards who looks. [m] */
  place: readonly number[] | null;
  look: (place: readonly number[]) => void;
  forget: () => void;
}

/** Which place of a list is looked at in the picture beside it. */
export const useSeen = create<SeenState>()((set) => ({
  place: null,
  // A copy: the same place may be asked for again, after one has turned away from it.
  look: (place) => set({ place: [...place] }),
  forget: () => set({ place: null }),
}));
