import "fake-indexeddb/auto";

import { IDBFactory } from "fake-indexeddb";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import type { What } from "./presses";

// A slow moment of the machine is no fault.
vi.setConfig({ testTimeout: 60_000 });

/** The server's clock is so far ahead of this machine's. [ms] */
const AHEAD_MS = 97_000;
const mixed: What = { kind: "tick", coat: 1, step: "mix" };
const poured: What = { kind: "tick", coat: 1, step: "pour" };

interface Sent {
  method: string;
  path: string;
  body: { press?: string; at?: string; step?: string };
}

/** The time it is, whatever this machine's clock is set to. */
const nowMs = () => performance.timeOrigin + performance.now();

/** A server that can go away, and refuse; it remembers what it was sent. */
function aServer() {
  const sent: Sent[] = [];
  const state = { isAway: false, isStrange: false, refuses: null as string | null };
  const json = (body: unknown, status = 200) => Response.json(body, { status });
  async function answer(request: Request): Promise<Response> {
    if (state.isAway) throw new TypeError("nobody there");
    const path = new URL(request.url).pathname;
    if (state.isStrange) return json({ detail: "Sign in to this workshop first." }, 401);
    if (path.endsWith("/now")) return json({ now: new Date(nowMs() + AHEAD_MS) });
    const body = request.method === "POST" ? ((await request.json()) as Sent["body"]) : {};
    sent.push({ method: request.method, path, body });
    if (state.refuses === body.step) return json({ detail: "It was poured already." }, 409);
    return json({ id: "p", status: "open" });
  }
  return { sent, state, answer };
}

let server: ReturnType<typeof aServer>;

/** What a page that is left takes along: its timers, and its line to other pages. */
const timers = new Set<ReturnType<typeof setTimeout>>();
const lines = new Set<BroadcastChannel>();

/** The outbox of a page that has just been loaded; what the browser keeps is as it was. */
async function aPage() {
  leave();
  vi.resetModules();
  return await import("./outbox");
}

function leave() {
  timers.forEach(clearTimeout);
  lines.forEach((one) => one.close());
  timers.clear();
  lines.clear();
}

/** Looks until it holds, however slow the machine is. */
const until = (look: () => void | Promise<void>) => vi.waitFor(look, { timeout: 20_000 });

const keys = () => server.sent.map((one) => one.body.press);

function laterOnThisPage(then: () => void, ms: number) {
  const timer = setTimeout(then, ms);
  timers.add(timer);
  return timer;
}

class Line extends BroadcastChannel {
  constructor(name: string) {
    super(name);
    lines.add(this);
  }

  // A page that was left says nothing more.
  override postMessage(message: unknown) {
    if (lines.has(this)) super.postMessage(message);
  }
}

beforeEach(() => {
  server = aServer();
  vi.stubGlobal("indexedDB", new IDBFactory());
  vi.stubGlobal("window", {
    setTimeout: laterOnThisPage,
    clearTimeout,
    addEventListener: () => undefined,
  });
  vi.stubGlobal("BroadcastChannel", Line);
  vi.stubGlobal("fetch", (request: Request) => server.answer(request));
});

afterEach(leave);
describe("presses at the bench", () => {
  it("go to the server in their order, each once, with the time of its clock", async () => {
    const { press, useOutbox } = await aPage();
    const before = Date.now();
    const both = [press("p", mixed), press("p", poured)];
    const after = Date.now();
    expect((await Promise.all(both)).map((pour) => pour.id)).toEqual(["p", "p"]);
    expect(server.sent.map((one) => one.body.step)).toEqual(["mix", "pour"]);
    expect(new Set(keys()).size).toBe(2);
    for (const { body } of server.sent) {
      // Measured between asking and hearing: off by half of how long that took, at most.
      const at = Date.parse(body.at ?? "") - AHEAD_MS;
      expect(at).toBeGreaterThan(before - 5_000);
      expect(at).toBeLessThan(after + 5_000);
    }
    await until(() => expect(useOutbox.getState().presses).toEqual([]));
  });

  it("wait while the server is away, and are sent once when it is back", async () => {
    server.state.isAway = true;
    const { press, send, useOutbox } = await aPage();
    const first = press("p", mixed);
    const second = press("p", poured);
    await until(() => expect(useOutbox.getState().isAway).toBe(true));
    expect(useOutbox.getState().presses).toHaveLength(2);
    expect(server.sent).toEqual([]);
    server.state.isAway = false;
    void send();
    await Promise.all([first, second]);
    expect(server.sent.map((one) => one.body.step)).toEqual(["mix", "pour"]);
    expect(useOutbox.getState().isAway).toBe(false);
  });

  it.each([-2, 2])(
    "keep their moment when the tablet's clock is set by %i hours",
    async (hours) => {
      const { press, send } = await aPage();
      const moments = [nowMs()];
      await press("p", mixed);
      server.state.isAway = true;
      moments.push(nowMs());
      const second = press("p", poured);
      const clock = vi.spyOn(Date, "now").mockImplementation(() => nowMs() + hours * 3_600_000);
      moments.push(nowMs());
      const third = press("p", { kind: "tick", coat: 1, step: "gel" });
      server.state.isAway = false;
      void send();
      await Promise.all([second, third]);
      clock.mockRestore();
      server.sent.forEach(({ body }, number) => {
        const at = Date.parse(body.at ?? "") - AHEAD_MS;
        expect(Math.abs(at - (moments[number] ?? 0))).toBeLessThan(5_000);
      });
      expect(server.sent).toHaveLength(3);
    },
  );

  it("are there again after the page was loaded anew, with the moment of the press", async () => {
    server.state.isAway = true;
    const before = await aPage();
    void before.press("p", mixed);
    const { keptPresses } = await import("./kept");
    await until(async () => expect(await keptPresses()).toHaveLength(1));
    const [kept] = await keptPresses();
    const after = await aPage();
    await until(() => expect(after.useOutbox.getState().presses).toHaveLength(1));
    server.state.isAway = false;
    await after.send();
    await until(() => expect(keys()).toContain(kept?.key));
    const at = Date.parse(server.sent[0]?.body.at ?? "");
    expect(Math.abs(at - AHEAD_MS - (kept?.pressedMs ?? 0))).toBeLessThan(5_000);
    // It is known by its key: had both pages sent it, it would count once.
    expect(keys()).toEqual([kept?.key]);
    await until(async () => expect(await keptPresses()).toEqual([]));
  });

  it("that are refused stand aside with the reason, and hold up nobody", async () => {
    server.state.refuses = "mix";
    const { press, leaveOut, tryAgain, useOutbox } = await aPage();
    void press("p", mixed);
    await press("p", poured);
    const [refused] = useOutbox.getState().presses;
    expect(refused?.refused).toBe("It was poured already.");
    expect(useOutbox.getState().isAway).toBe(false);
    // Sent again it is the same press.
    server.state.refuses = null;
    if (refused) tryAgain(refused);
    await until(() => expect(useOutbox.getState().presses).toEqual([]));
    expect(keys()[2]).toBe(refused?.key);
    // Left out it is gone, and the server hears nothing more of it.
    server.state.refuses = "mix";
    void press("p", mixed);
    await until(() => expect(useOutbox.getState().presses[0]?.refused).toBeDefined());
    const [other] = useOutbox.getState().presses;
    if (other) leaveOut(other);
    expect(useOutbox.getState().presses).toEqual([]);
    expect(server.sent).toHaveLength(4);
  });

  it("wait while somebody has to sign in first, and are sent once they have", async () => {
    server.state.isStrange = true;
    const { press, useOutbox } = await aPage();
    let isTaken = false;
    const answered = press("p", mixed).then(() => (isTaken = true));
    await until(() => expect(useOutbox.getState().presses[0]?.number).toBeDefined());
    await new Promise((done) => setTimeout(done, 1_500));
    // Neither refused nor lost, and the server is not away.
    const [waiting] = useOutbox.getState().presses;
    expect(waiting?.refused).toBeUndefined();
    expect([isTaken, useOutbox.getState().isAway]).toEqual([false, false]);
    server.state.isStrange = false;
    await answered;
    expect(keys()).toEqual([waiting?.key]);
  });

  it("are taken back and closed at their own addresses", async () => {
    const { press } = await aPage();
    await press("p", { kind: "take-back", coat: 1, step: "mix" });
    await press(
      "p",
      { kind: "close", status: "cast", cast_kg: 0.12, note: "" },
      "2026-06-01T12:00Z",
    );
    const [back, close] = server.sent;
    expect([back?.method, back?.path]).toEqual(["DELETE", "/api/v1/pours/p/steps/last"]);
    expect(close?.path).toBe("/api/v1/pours/p/close");
    // A time that was typed in is told as it was typed.
    expect(close?.body).toMatchObject({ at: "2026-06-01T12:00Z", status: "cast", cast_kg: 0.12 });
  });
});
