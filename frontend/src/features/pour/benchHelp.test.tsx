// @vitest-environment jsdom
import { act, fireEvent, screen } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";

import type { Pour, PouredCoat } from "../../api/client";
import { inPage, leavePage } from "../../testing/page";
import { Missed } from "./Missed";
import { RollGuide } from "./RollGuide";

const sounds: string[] = [];
vi.mock("./tones", () => ({ sound: (tone: string) => sounds.push(tone) }));

afterEach(leavePage);

describe("a window that was missed", () => {
  const pour = (is_hard: boolean) =>
    ({ missed: { coat: 3, late_s: 540, is_hard, wall_m: 0.0021, wanted_m: 0.003 } }) as Pour;

  it("says what there is to do, with its caution, and what wall there is", () => {
    const stop = vi.fn();
    const { redraw } = inPage(<Missed pour={pour(true)} onStop={stop} />);
    const said = () => screen.getByRole("status").textContent;
    expect(said()).toContain("The window for coat 3 closed 9\u00a0min ago");
    expect(said()).toContain("scuff the whole face with a coarse pad");
    expect(said()).toContain("Mask on: the dust harms the lungs.");
    expect(said()).toContain("2.1\u00a0mm of 3.0\u00a0mm");
    fireEvent.click(screen.getByText("Stop here and let it cure"));
    expect(stop).toHaveBeenCalledOnce();
    // What is soft still smears.
    redraw(<Missed pour={pour(false)} onStop={stop} />);
    expect(said()).toContain("wait until it is hard, or it smears");
  });

  it("is not spoken of where none was missed", () => {
    inPage(<Missed pour={{ missed: null } as Pour} onStop={() => undefined} />);
    expect(screen.queryByRole("status")).toBeNull();
  });
});

describe("how the mould is held", () => {
  const POURED = "2026-06-01T12:00:00Z";
  const at = (seconds: number) => Date.parse(POURED) / 1000 + seconds;
  const coat = (pace: number | null) =>
    ({
      poured_at: POURED,
      in_room: pace === null ? null : { pace },
      pattern: [
        { t_s: 0, tilt_deg: 0, azimuth_deg: 0 },
        { t_s: 4, tilt_deg: 120, azimuth_deg: 0 },
        { t_s: 10, tilt_deg: -60, azimuth_deg: 400 },
      ],
    }) as unknown as PouredCoat;

  it("is not shown before it is in the mould", () => {
    inPage(<RollGuide coat={{ ...coat(null), poured_at: null }} now={at(0)} />);
    expect(document.querySelector("figure")).toBeNull();
  });

  const words = () => document.querySelector("figcaption")?.textContent;

  it("is told in words as it goes, the short way round, and sounds once a move", () => {
    sounds.length = 0;
    const { redraw } = inPage(<RollGuide coat={coat(null)} now={at(1)} />);
    expect(words()).toBe("Tilt 30°, turned 0° round");
    act(() => redraw(<RollGuide coat={coat(null)} now={at(3)} />));
    expect(words()).toBe("Tilt 90°, turned 0° round");
    expect(sounds).toEqual(["tilt"]);
    act(() => redraw(<RollGuide coat={coat(null)} now={at(9.999)} />));
    expect(words()).toBe("Tilt 60° to the other side, turned 40° round");
    expect(sounds).toEqual(["tilt", "turn"]);
  });

  it("goes on from where it is when the room becomes warmer", () => {
    const { redraw } = inPage(<RollGuide coat={coat(1)} now={at(2)} />);
    expect(words()).toContain("Tilt 60°");
    act(() => redraw(<RollGuide coat={coat(2)} now={at(2)} />));
    expect(words()).toContain("Tilt 60°");
    // Half a second at twice the pace is a second of the pattern.
    act(() => redraw(<RollGuide coat={coat(2)} now={at(2.5)} />));
    expect(words()).toContain("Tilt 90°");
  });

  it("says how much faster it goes in a warm room, and how much slower in a cold one", () => {
    const { redraw } = inPage(<RollGuide coat={coat(1.25)} now={at(5)} />);
    const pace = () => document.querySelector(".pace")?.textContent;
    expect(pace()).toBe("25\u00a0% faster: it sets sooner in this room");
    act(() => redraw(<RollGuide coat={coat(0.8)} now={at(5)} />));
    expect(pace()).toBe("20\u00a0% slower: it sets later in this room");
    act(() => redraw(<RollGuide coat={coat(null)} now={at(5)} />));
    expect(pace()).toBeUndefined();
  });
});
