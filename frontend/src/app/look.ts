import { useSyncExternalStore } from "react";
import { create } from "zustand";
import { persist } from "zustand/middleware";

/** Which ground the desk has: the system's, or one that is chosen here. */
export type Look = "system" | "light" | "dark";
const ORDER: readonly Look[] = ["system", "light", "dark"];

interface LookState {
  look: Look;
  turn: () => void;
}

/** A choice of this browser, remembered there. */
export const useLook = create<LookState>()(
  persist(
    (set) => ({
      look: "system",
      turn: () =>
        set(({ look }) => ({ look: ORDER[(ORDER.indexOf(look) + 1) % ORDER.length] ?? "system" })),
    }),
    { name: "husk-look" },
  ),
);

/** Whether the window answers to a media query, as long as it does. */
export function useMedia(query: string): boolean {
  return useSyncExternalStore(
    (told) => {
      const list = window.matchMedia(query);
      list.addEventListener("change", told);
      return () => list.removeEventListener("change", told);
    },
    () => window.matchMedia(query).matches,
  );
}

/** Whether the desk is dark now. */
export function useDark(): boolean {
  const look = useLook((state) => state.look);
  const isSystemDark = useMedia("(prefers-color-scheme: dark)");
  return look === "system" ? isSystemDark : look === "dark";
}

/** Whether fingers are likely: what is pressed is 44 px then. base.css asks the same. */
export const FINGERS = "(pointer: coarse), (width <= 1024px)";
