import { useEffect, useState } from "react";

/** Seconds since an epoch by the server's clock, ticking; the tablet's own may be wrong. */
export function useServerNow(serverNow: string): number {
  // Fixed when the answer arrives: how far this machine's clock is off.
  const [offset, setOffset] = useState({ of: "", seconds: 0 });
  const [now, setNow] = useState(() => Date.now() / 1000);
  if (offset.of !== serverNow)
    setOffset({ of: serverNow, seconds: Date.parse(serverNow) / 1000 - now });

  useEffect(() => {
    const timer = window.setInterval(() => setNow(Date.now() / 1000), 200);
    return () => window.clearInterval(timer);
  }, []);
  return now + offset.seconds;
}

export function secondsOf(iso: string): number {
  return Date.parse(iso) / 1000;
}

let sound: AudioContext | null = null;

/** Called in a press, because browsers allow sound only after one. */
export function allowSound(): void {
  sound ??= new AudioContext();
  void sound.resume();
}

/** A short tone: something has run out. */
export function beep(): void {
  if (!sound) return;
  const tone = sound.createOscillator();
  const volume = sound.createGain();
  tone.frequency.value = 880;
  volume.gain.setValueAtTime(0.25, sound.currentTime);
  volume.gain.exponentialRampToValueAtTime(0.001, sound.currentTime + 0.9);
  tone.connect(volume).connect(sound.destination);
  tone.start();
  tone.stop(sound.currentTime + 0.9);
}
