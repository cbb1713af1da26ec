/** What a tray looks like at a moment, as the server answers: a line of JSON, a byte a corner. */
export interface Frame {
  t_s: number;
  gels_at_s: number;
  up: readonly number[];
  spilt_kg: number;
  pool_kg: number;
  wet: number;
  rim_wet: number;
  /** Viscosity; null once it has gelled. [Pa s] */
  pa_s: number | null;
  has_set: boolean;
  most_m: number;
  corners: number;
  /** 255 times the root of the film over `most_m`. */
  film: Uint8Array;
}

export function readFrame(content: ArrayBuffer): Frame {
  const bytes = new Uint8Array(content);
  const end = bytes.indexOf(10);
  const head = JSON.parse(new TextDecoder().decode(bytes.subarray(0, end))) as Omit<Frame, "film">;
  return { ...head, film: bytes.subarray(end + 1) };
}

/** The film on every corner, written into an array. [m] */
export function filmOf(frame: Frame, into: Float32Array): void {
  for (let corner = 0; corner < frame.corners; corner++) {
    const share = (frame.film[corner] ?? 0) / 255;
    into[corner] = share * share * frame.most_m;
  }
}

/** How the resin feels, in a word: thinner than oil, like honey, stiff (common practice). [Pa s] */
export function feels(frame: Frame): string {
  if (frame.pa_s === null) return "gelled";
  if (frame.pa_s < 0.3) return "like oil";
  if (frame.pa_s < 2) return "like syrup";
  if (frame.pa_s < 15) return "like honey";
  return "stringy";
}
