import { create } from "zustand";

/** What is told by sound, each by its own tones; made in the browser. */
export type Tone =
  "pour" | "roll" | "next" | "late" | "slowly" | "stop" | "taken" | "tilt" | "turn";

/** Pitch [Hz] and length [s], one after the other. */
const NOTES: Record<Tone, readonly (readonly [number, number])[]> = {
  pour: [
    [523, 0.25],
    [659, 0.25],
  ],
  roll: [[392, 0.6]],
  next: [
    [523, 0.18],
    [659, 0.18],
    [784, 0.35],
  ],
  late: [
    [220, 0.3],
    [196, 0.3],
    [175, 0.6],
  ],
  slowly: [[440, 0.12]],
  stop: [
    [988, 0.12],
    [988, 0.3],
  ],
  tilt: [[330, 0.15]],
  turn: [[494, 0.15]],
  taken: [
    [659, 0.12],
    [880, 0.2],
  ],
};

export const VOLUMES = ["loud", "soft", "off"] as const;
export type Volume = (typeof VOLUMES)[number];
const GAIN: Record<Volume, number> = { loud: 0.5, soft: 0.12, off: 0 };
const KEY = "mild-husk sound";

const kept = VOLUMES.find((one) => one === localStorage.getItem(KEY)) ?? "loud";

/** How loud the bench is; kept in this browser. */
export const useVolume = create<{ volume: Volume; turn: () => void }>((set, get) => ({
  volume: kept,
  turn: () => {
    const next = VOLUMES[(VOLUMES.indexOf(get().volume) + 1) % VOLUMES.length] ?? "loud";
    localStorage.setItem(KEY, next);
    set({ volume: next });
    allowSound();
    sound("taken");
  },
}));

let context: AudioContext | null = null;

/** Called in a press, because browsers allow sound only after one. */
export function allowSound(): void {
  context ??= new AudioContext();
  void context.resume();
}

/** Sounds a tone. */
export function sound(tone: Tone): void {
  const gain = GAIN[useVolume.getState().volume];
  if (!context || gain === 0) return;
  let at = context.currentTime;
  for (const [hertz, seconds] of NOTES[tone]) {
    const note = context.createOscillator();
    const volume = context.createGain();
    note.frequency.value = hertz;
    volume.gain.setValueAtTime(gain, at);
    volume.gain.exponentialRampToValueAtTime(0.001, at + seconds);
    note.connect(volume).connect(context.destination);
    note.start(at);
    note.stop(at + seconds);
    at += seconds;
  }
}
