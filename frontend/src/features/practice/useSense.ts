import { useCallback, useEffect, useRef, useState } from "react";

import { useDeviceOf } from "../../shared/live";
import type { Sense, Told } from "./useTray";

export type HeldBy = "hands" | "tablet" | "sensor";

/** Some browsers ask their user first, and only in a press. */
interface Asking {
  requestPermission?: () => Promise<"granted" | "denied">;
}

/** What holds the tray: this screen's pointer and keys, the tablet's own tilt, or a turn sensor. */
export function useSense() {
  const [by, setBy] = useState<HeldBy>("hands");
  const sensor = useDeviceOf("turn");
  const told = useRef<Told | null>(null);
  const canTilt = window.isSecureContext && "DeviceOrientationEvent" in window;

  useEffect(() => {
    if (by !== "sensor") return;
    const { x, y, z } = sensor ?? {};
    told.current =
      x !== undefined && y !== undefined && z !== undefined ? { x, y, z } : told.current;
  }, [by, sensor]);

  useEffect(() => {
    if (by !== "tablet") return;
    function note({ beta, gamma }: DeviceOrientationEvent) {
      if (beta !== null && gamma !== null) told.current = { beta, gamma };
    }
    window.addEventListener("deviceorientation", note);
    return () => window.removeEventListener("deviceorientation", note);
  }, [by]);

  const choose = useCallback(async (next: HeldBy) => {
    const asking = window.DeviceOrientationEvent as unknown as Asking | undefined;
    const isDenied = next === "tablet" && (await asking?.requestPermission?.()) === "denied";
    told.current = null;
    setBy(isDenied ? "hands" : next);
  }, []);

  const sense: Sense = useCallback(() => (by === "hands" ? null : told.current), [by]);
  return { by, choose, sense, canTilt, sensor: sensor?.name };
}
