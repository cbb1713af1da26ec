import { useCallback, useEffect, useRef, useState } from "react";

import { client, sentenceOf, unwrap, type RollRequest, type Try } from "../../api/client";
import { readFrame, type Frame } from "./frame";
import { heldWith, UPRIGHT, type Held } from "./holding";

/** How it is held is noted, and a frame asked for, so often at most. [ms] */
const NOTE_MS = 50;
const ASK_MS = 100;

/** What a sensor tells now: where up is, or how this tablet is held; null while hands hold it. */
export type Told = { x: number; y: number; z: number } | { beta: number; gamma: number };
export type Sense = () => Told | null;

interface Moment {
  t_s: number;
  held: Held;
  told: Told | null;
}

/** One way in which some moments are told: the last one's. */
function bodyOf(moments: readonly Moment[]): RollRequest {
  const body: RollRequest = { tilted: [], sensed: [], oriented: [] };
  const last = moments.at(-1)?.told;
  for (const { t_s, held, told } of moments) {
    if (!last && !told) body.tilted?.push({ t_s, ...held });
    else if (last && told && "x" in last && "x" in told) body.sensed?.push({ t_s, ...told });
    else if (last && told && "beta" in last && "beta" in told)
      body.oriented?.push({ t_s, ...told });
  }
  return body;
}

/** Rolls a tray in real time: what is held goes to the server, its film comes back. */
export function useTray(tray: Try | null, speed: number, sense: Sense) {
  const [frame, setFrame] = useState<Frame | null>(null);
  const [error, setError] = useState<string | null>(null);
  const [isOver, setOver] = useState(false);
  const held = useRef<Held>(UPRIGHT);
  const keys = useRef(new Set<string>());
  const hold = useCallback((change: (held: Held) => Held) => {
    held.current = change(held.current);
  }, []);

  useEffect(() => {
    if (!tray || isOver) return;
    let isAsking = false;
    let isGone = false;
    let waiting: Moment[] = [];
    const beganMs = performance.now();
    let lastMs = beganMs;
    let askedMs = beganMs;

    async function ask(id: string) {
      const sent = waiting;
      waiting = [];
      isAsking = true;
      try {
        const content = await unwrap(
          client.POST("/api/v1/practice/{id}/roll", {
            params: { path: { id } },
            body: bodyOf(sent),
            parseAs: "arrayBuffer",
          }),
        );
        if (isGone) return;
        const told = readFrame(content as unknown as ArrayBuffer);
        setFrame(told);
        if (told.has_set) setOver(true);
      } catch (wrong) {
        if (!isGone) {
          setError(sentenceOf(wrong));
          setOver(true);
        }
      } finally {
        isAsking = false;
      }
    }

    const timer = window.setInterval(() => {
      const nowMs = performance.now();
      held.current = heldWith(held.current, keys.current, (nowMs - lastMs) / 1e3);
      lastMs = nowMs;
      const t_s = ((nowMs - beganMs) / 1e3) * speed;
      waiting.push({ t_s, held: held.current, told: sense() });
      if (!isAsking && nowMs - askedMs >= ASK_MS) {
        askedMs = nowMs;
        void ask(tray.id);
      }
    }, NOTE_MS);
    return () => {
      isGone = true;
      window.clearInterval(timer);
    };
  }, [tray, speed, sense, isOver]);

  const stop = useCallback(() => setOver(true), []);
  return { frame, error, isOver, stop, hold, held, keys };
}
