import { useEffect, useRef, useState } from "react";

import { client, unwrap } from "../../api/client";
import { offsetMs } from "./serverClock";

/** How this tablet is held at a moment, by the server's clock. [degrees] */
interface Reading {
  at: string;
  beta: number;
  gamma: number;
}

/** A reading is taken so often at most, and what was taken is sent so often. [ms] */
const READ_EVERY_MS = 90;
const SEND_EVERY_MS = 2_000;
/** So many at once; more wait for the next time. */
const MOST = 1_500;

/** Some browsers ask their user first, and only in a press. */
interface Asking {
  requestPermission?: () => Promise<"granted" | "denied">;
}

/** Whether this browser tells how it is held: only over HTTPS or from this machine. */
export const canTell = () => window.isSecureContext && "DeviceOrientationEvent" in window;

async function isAllowed(): Promise<boolean> {
  const asking = window.DeviceOrientationEvent as unknown as Asking;
  return (await asking.requestPermission?.()) !== "denied";
}

export type TabletState = "off" | "denied" | "silent" | "records";

/** Records how this tablet, strapped to a mould, is turned while a coat is liquid. */
export function useTabletTurn(pour: string, coat: number) {
  const [isOn, setOn] = useState(false);
  const [isDenied, setDenied] = useState(false);
  const [recordedS, setRecorded] = useState<number | null>(null);
  const waiting = useRef<Reading[]>([]);

  useEffect(() => {
    if (!isOn) return;
    let lastMs = 0;
    let isSending = false;
    function note(event: DeviceOrientationEvent) {
      const now = Date.now();
      if (event.beta === null || event.gamma === null || now - lastMs < READ_EVERY_MS) return;
      lastMs = now;
      const at = new Date(now + offsetMs()).toISOString();
      waiting.current.push({ at, beta: event.beta, gamma: event.gamma });
    }
    async function send() {
      const sent = waiting.current.slice(0, MOST);
      if (isSending || sent.length === 0) return;
      isSending = true;
      try {
        const params = { path: { id: pour, coat } };
        const kept = await unwrap(
          client.POST("/api/v1/pours/{id}/coats/{coat}/turning", {
            params,
            body: { readings: sent },
          }),
        );
        waiting.current = waiting.current.slice(sent.length);
        setRecorded(kept.recorded_s);
      } catch {
        // It is sent again with what follows.
      } finally {
        isSending = false;
      }
    }
    window.addEventListener("deviceorientation", note);
    const timer = window.setInterval(() => void send(), SEND_EVERY_MS);
    return () => {
      window.removeEventListener("deviceorientation", note);
      window.clearInterval(timer);
      void send();
    };
  }, [isOn, pour, coat]);

  async function begin() {
    const allowed = await isAllowed();
    setDenied(!allowed);
    setOn(allowed);
  }
  const state: TabletState = isDenied
    ? "denied"
    : !isOn
      ? "off"
      : recordedS === null
        ? "silent"
        : "records";
  return { state, recordedS, begin: () => void begin(), end: () => setOn(false) };
}
