import { useEffect } from "react";
import { create } from "zustand";

import type { Today } from "../../api/client";
import { clockTime } from "../../shared/format";
import { allowSound, sound } from "../pour/tones";

const KEY = "mild-husk reminders";
/** So long before hands are needed it is told. [ms] */
const BEFORE_MS = 5 * 60_000;

/** Whether this browser reminds; asked for once, by a press. */
export const useReminders = create<{ isOn: boolean; turn: () => Promise<void> }>((set, get) => ({
  isOn: localStorage.getItem(KEY) === "on",
  turn: async () => {
    const isOn = !get().isOn;
    allowSound();
    if (isOn && "Notification" in window && Notification.permission === "default")
      await Notification.requestPermission();
    localStorage.setItem(KEY, isOn ? "on" : "off");
    set({ isOn });
    if (isOn) sound("taken");
  },
}));

/** What was told already, so that each is told once, also on another page of this browser. */
const told = new Set<string>();

/** Tells of the next thing for hands five minutes before, by sound and where it may by a note. */
export function useRemind(today: Today) {
  const isOn = useReminders((state) => state.isOn);
  useEffect(() => {
    function look() {
      const next = [...today.now.filter((one) => !one.begun), today.following].find(
        (one) => one && Date.parse(one.starts) - Date.now() <= BEFORE_MS,
      );
      if (!isOn || !next) return;
      const key = `${next.id} ${next.starts}`;
      if (told.has(key)) return;
      told.add(key);
      sound("next");
      if ("Notification" in window && Notification.permission === "granted")
        new Notification(`${clockTime(next.starts)} ${next.title}`, { body: next.job_title });
    }
    look();
    const looking = setInterval(look, 10_000);
    return () => clearInterval(looking);
  }, [isOn, today]);
}
