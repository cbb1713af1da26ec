import { useEffect } from "react";

/** Keeps the screen on while a page is looked at, where the browser can. */
export function useAwake() {
  useEffect(() => {
    let lock: WakeLockSentinel | undefined;
    let isGone = false;

    async function stayAwake() {
      if (document.visibilityState !== "visible" || !("wakeLock" in navigator)) return;
      try {
        const got = await navigator.wakeLock.request("screen");
        if (isGone) void got.release();
        else lock = got;
      } catch {
        // A low battery, say: the screen goes dark as it would.
      }
    }

    void stayAwake();
    const look = () => void stayAwake();
    document.addEventListener("visibilitychange", look);
    return () => {
      isGone = true;
      document.removeEventListener("visibilitychange", look);
      void lock?.release();
    };
  }, []);
}
