/** One coat on its way, as the server kept it: moments, and a byte for every corner at each. */
export interface Film {
  t_s: number[];
  up: number[][];
  most_m: number;
  corners: number;
  liquid: Uint8Array;
}

export async function fetchFilm(runId: string, coat: number): Promise<Film | null> {
  const answer = await fetch(`/api/v1/walls/${runId}/coats/${coat}/film`);
  // Of a first look only the first coat was simulated.
  if (answer.status === 404) return null;
  if (!answer.ok) throw new Error("The film cannot be fetched; load the page again.");
  const content = new Uint8Array(await answer.arrayBuffer());
  const end = content.indexOf(10);
  const head = JSON.parse(new TextDecoder().decode(content.subarray(0, end))) as Omit<
    Film,
    "liquid"
  >;
  return { ...head, liquid: content.subarray(end + 1) };
}

/** The liquid on every corner at a moment, written into an array. [m] */
export function liquidAt(film: Film, moment: number, into: Float32Array): void {
  const start = moment * film.corners;
  for (let corner = 0; corner < film.corners; corner++) {
    const share = (film.liquid[start + corner] ?? 0) / 255;
    into[corner] = share * share * film.most_m;
  }
}
