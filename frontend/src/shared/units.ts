import { create } from "zustand";
import { persist } from "zustand/middleware";

import type { UnitSystem } from "./format";

interface UnitsState {
  system: UnitSystem;
  toggle: () => void;
}

/** Metric or imperial: a choice of this browser, remembered there. */
export const useUnits = create<UnitsState>()(
  persist(
    (set) => ({
      system: "metric",
      toggle: () => set((now) => ({ system: now.system === "metric" ? "imperial" : "metric" })),
    }),
    { name: "husk-units" },
  ),
);
