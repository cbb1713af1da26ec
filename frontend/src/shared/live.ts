import { useEffect, useEffectEvent } from "react";
import { create } from "zustand";

import { elapsedMs, thisMoment, type Moment } from "./elapsed";

/** A device as it is now; what it does not measure is missing. */
export interface LiveDevice {
  topic: "device";
  id: string;
  name: string;
  kind: "scale" | "room" | "machine" | "turn";
  is_there: boolean;
  standin?: boolean;
  unreadable: number;
  /** Of a scale: the weight, null above its range, and its last digit. [kg] */
  kg?: number | null;
  steady?: boolean;
  step_kg?: number;
  /** Of a room. [°C], [%] */
  c?: number;
  rh?: number;
  /** Of a turn sensor: where up is, seen from the mould. */
  x?: number;
  y?: number;
  z?: number;
  /** Of a machine. */
  state: string;
  fault?: string;
  over_rpm?: number;
  round_rpm?: number;
  over_deg?: number;
  round_deg?: number;
}

export type Say =
  | "empty"
  | "cup"
  | "pour"
  | "slowly"
  | "stop"
  | "more"
  | "wait"
  | "far-over"
  | "not-poured"
  | "back"
  | "lift"
  | "too-heavy"
  | "lost"
  | "by-hand"
  | "done";

/** A coat that is weighed on a live scale. [kg] */
export interface LiveWeighing {
  topic: "weighing";
  id: string;
  coat: number;
  device: string;
  say: Say;
  part: string;
  wanted_kg: number;
  in_cup_kg: number;
  left_kg: number;
  poured: { name: string; kg: number }[];
}

/** What the server tells of by itself. */
export type Live =
  | { topic: "pour"; id: string }
  | { topic: "days" }
  | { topic: "look-anew" }
  | { topic: "quiet" }
  | { topic: "refused"; id: string; why: string }
  | LiveDevice
  | LiveWeighing;

/** It says at least something every five seconds; after so long it is asked again. [ms] */
const SILENT_MS = 12_000;
const AGAIN_MS = 1_000;
/** What tends the devices tells of each every second; not told of for so long, it is lost. [ms] */
const LOST_MS = 4_000;

interface Things {
  devices: Readonly<Record<string, LiveDevice>>;
  weighings: Readonly<Record<string, LiveWeighing>>;
}
const useThings = create<Things>(() => ({ devices: {}, weighings: {} }));

const hearing = new Set<(told: Live) => void>();
const deviceHeard = new Map<string, Moment>();
let source: EventSource | undefined;
let heard = thisMoment();
let watch: number | undefined;

function open() {
  source?.close();
  heard = thisMoment();
  source = new EventSource("/api/v1/live");
  source.onmessage = (message: MessageEvent<string>) => {
    heard = thisMoment();
    const told = JSON.parse(message.data) as Live;
    note(told);
    hearing.forEach((hears) => hears(told));
  };
}

function note(told: Live) {
  if (told.topic === "device") {
    deviceHeard.set(told.id, thisMoment());
    useThings.setState(({ devices }) => ({ devices: { ...devices, [told.id]: told } }));
  } else if (told.topic === "weighing") {
    useThings.setState(({ weighings }) => ({ weighings: { ...weighings, [told.id]: told } }));
  }
}

function look() {
  // A browser gives up after a refusal, and does not notice a line that went dead.
  if (source?.readyState === EventSource.CLOSED || elapsedMs(heard) > SILENT_MS) open();
  for (const one of Object.values(useThings.getState().devices)) {
    const told = deviceHeard.get(one.id);
    if (one.is_there && (!told || elapsedMs(told) > LOST_MS)) {
      const lost = { ...one, is_there: false };
      useThings.setState(({ devices }) => ({ devices: { ...devices, [one.id]: lost } }));
    }
  }
}

/** Hears what the server tells while a page is open; after a gap it is told to look anew. */
export function useLive(hears: (told: Live) => void) {
  const latest = useEffectEvent(hears);
  useEffect(() => {
    const one = (told: Live) => latest(told);
    hearing.add(one);
    if (hearing.size === 1) {
      open();
      watch = window.setInterval(look, AGAIN_MS);
    }
    return () => {
      hearing.delete(one);
      if (hearing.size > 0) return;
      source?.close();
      source = undefined;
      window.clearInterval(watch);
    };
  }, []);
}

/** The device of a key, as it is now. */
export const useLiveDevice = (id: string) => useThings((state) => state.devices[id]);

/** The first device of a kind that is there, the real ones before the stand-ins. */
export const useDeviceOf = (kind: LiveDevice["kind"]) =>
  useThings((state) => {
    const there = Object.values(state.devices).filter((one) => one.kind === kind && one.is_there);
    return there.find((one) => !one.standin) ?? there[0];
  });

/** How the weighing of a pour stands. */
export const useLiveWeighing = (pour: string) => useThings((state) => state.weighings[pour]);
