import { afterEach, describe, expect, it, vi } from "vitest";

import { fetchFilm, liquidAt, type Film } from "./film";

/** A film as the server sends it: a line of JSON, then a byte for every corner at each moment. */
function sent(head: Omit<Film, "liquid">, liquid: number[]): Response {
  const line = new TextEncoder().encode(`${JSON.stringify(head)}\n`);
  const content = new Uint8Array(line.length + liquid.length);
  content.set(line);
  content.set(liquid, line.length);
  return new Response(content);
}

const HEAD = {
  t_s: [0, 20],
  up: [
    [0, 0, 1],
    [1, 0, 0],
  ],
  most_m: 0.004,
  corners: 3,
};

afterEach(() => {
  vi.unstubAllGlobals();
});

describe("the film of a coat", () => {
  it("is read as it was sent, also where a byte of it looks like the end of a line", async () => {
    vi.stubGlobal("fetch", () => Promise.resolve(sent(HEAD, [10, 255, 0, 51, 10, 128])));
    const film = await fetchFilm("run", 1);
    expect(film?.t_s).toEqual([0, 20]);
    expect(Array.from(film?.liquid ?? [])).toEqual([10, 255, 0, 51, 10, 128]);
  });

  it("is as thick as the square of its byte says, at the moment asked for", () => {
    // Thin films want the finer steps: byte b of 255 is (b / 255) squared of the thickest.
    const film: Film = { ...HEAD, liquid: new Uint8Array([0, 255, 51, 255, 51, 0]) };
    const into = new Float32Array(3);
    liquidAt(film, 0, into);
    expect([...into].map((one) => +one.toFixed(7))).toEqual([0, 0.004, 0.00016]);
    liquidAt(film, 1, into);
    expect([...into].map((one) => +one.toFixed(7))).toEqual([0.004, 0.00016, 0]);
  });

  it("may not be there, of a coat that was not simulated; anything else is said", async () => {
    vi.stubGlobal("fetch", () => Promise.resolve(new Response(null, { status: 404 })));
    expect(await fetchFilm("run", 2)).toBeNull();
    vi.stubGlobal("fetch", () => Promise.resolve(new Response(null, { status: 500 })));
    await expect(fetchFilm("run", 2)).rejects.toThrow("load the page again");
  });
});
