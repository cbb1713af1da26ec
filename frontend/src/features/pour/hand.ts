import { create } from "zustand";

/** Which hand is free at the bench: the large presses lie on its side. */
export const HANDS = ["either", "right", "left"] as const;
export type Hand = (typeof HANDS)[number];

const KEY = "mild-husk hand";
const kept = HANDS.find((one) => one === localStorage.getItem(KEY)) ?? "either";

/** The free hand; kept in this browser. */
export const useHand = create<{ hand: Hand; turn: () => void }>((set, get) => ({
  hand: kept,
  turn: () => {
    const next = HANDS[(HANDS.indexOf(get().hand) + 1) % HANDS.length] ?? "either";
    localStorage.setItem(KEY, next);
    set({ hand: next });
  },
}));
