// @vitest-environment jsdom
import { act, fireEvent, screen } from "@testing-library/react";
import { useState } from "react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import type { WallRun } from "../../api/client";
import { useUnits } from "../../shared/units";
import { inPage, leavePage } from "../../testing/page";
import { LookTools } from "./LookTools";
import { useSeen } from "./seen";
import { WallFigures, WallHeadline } from "./WallFigures";
import type { Look } from "./WallScene";

beforeEach(() => {
  useUnits.setState({ system: "metric" });
  useSeen.getState().forget();
});
afterEach(leavePage);

type Wall = WallRun["wall"];

function aRun(wall: Partial<Wall> = {}, run: Partial<WallRun> = {}): WallRun {
  return {
    id: "w",
    is_first_look: false,
    doubt: "An estimate: hands differ.",
    ...run,
    wall: {
      p05_m: 0.0021,
      p01_m: 0.0016,
      mean_m: 0.0033,
      max_m: 0.0071,
      target_m: 0.003,
      under_target: 0.12,
      thin_under_m: 0.003,
      lid_kg: 0,
      pool_kg: 0.0123,
      spilt_kg: 0,
      cast_kg: 0.2,
      paste_kg: 0.02,
      paste_saves_kg: null,
      coats_needed: 5,
      coats_for_thinnest: 7,
      thinnest_at: "beak",
      thickest_at: "chin",
      all_wet_s: 61,
      still_s: null,
      in_air_m2: 0,
      thin_places: [
        { at_m: [0.01, 0.02, 0.03], name: "left cheek", wall_m: 0.0019, area_m2: 0.0012 },
      ],
      thick_places: [],
      centre_of_mass_m: [0.0014, -0.0204, 0.08],
      coats: [
        { charge_kg: 0.05, mean_m: 0.0011, p05_m: 0.0007, all_wet_s: 61 },
        { charge_kg: 0.05, mean_m: 0.0011, p05_m: 0.0007, all_wet_s: null },
      ],
      ...wall,
    },
  } as unknown as WallRun;
}

const said = () => document.body.textContent;

describe("what a wall comes to", () => {
  it("says first what nearly all of the face has, and how much falls short", () => {
    inPage(<WallHeadline run={aRun()} />);
    expect(document.querySelector(".wall-big")?.textContent).toBe(
      "2.1\u00a0mm or more on 95\u00a0% of the face",
    );
    expect(said()).toContain("12\u00a0% of the face is under the wished 3.0\u00a0mm.");
    expect(said()).toContain("An estimate: hands differ.");
  });

  it("says that a first look is one", () => {
    inPage(<WallHeadline run={aRun({}, { is_first_look: true })} />);
    expect(said()).toContain("the first coat stands for all");
    expect(said()).not.toContain("hands differ");
  });

  it.each<[Partial<Wall>, string]>([
    [{ under_target: 0.004 }, "The wished 3.0\u00a0mm is kept nearly everywhere."],
    [
      { coats_needed: 5, coats_for_thinnest: 7 },
      "About 5\u00a0such coats would keep it on 99\u00a0% of the face; at its thinnest it takes about 7.",
    ],
    [
      { coats_needed: 5, coats_for_thinnest: null },
      "About 5\u00a0such coats would keep it on 99\u00a0% of the face; at its thinnest no number of them does.",
    ],
    [{ coats_needed: 2, coats_for_thinnest: 3 }, "At its thinnest it takes about 3."],
    [{ coats_needed: null }, "Some place takes nothing: no number of such coats mends it"],
    [{ lid_kg: 0.031 }, "The lid keeps 31.0\u00a0g."],
    [
      { paste_saves_kg: 0.04 },
      "Or spread about 20.0\u00a0g as a paste on the thin places: 40.0\u00a0g less.",
    ],
  ])("with %j says: %s", (wall, words) => {
    inPage(<WallHeadline run={aRun(wall)} />);
    expect(said()).toContain(words);
  });

  it("asks for no more coats where even the thinnest place has enough", () => {
    inPage(<WallHeadline run={aRun({ coats_needed: 2, coats_for_thinnest: 2 })} />);
    expect(said()).not.toContain("coats would");
    expect(said()).not.toContain("At its thinnest");
  });

  it("names what stays thin, and turns the picture towards it when it is pressed", () => {
    inPage(<WallFigures run={aRun()} />);
    fireEvent.click(screen.getByText("left cheek"));
    expect(useSeen.getState().place).toEqual([0.01, 0.02, 0.03]);
    const before = useSeen.getState().place;
    // The same place again is asked for again.
    fireEvent.click(screen.getByText("left cheek"));
    expect(useSeen.getState().place).not.toBe(before);
    expect(screen.queryByText("Thick places")).toBeNull();
  });

  it("says under what the thinnest are thin where all of the face has the wished wall", () => {
    inPage(<WallFigures run={aRun({ thin_under_m: 0.0026 })} />);
    expect(said()).toContain("The thinnest places, under 2.6\u00a0mm, numbered on the piece");
  });

  it("tells of air that was trapped, of what was never wet, and of what came to rest", () => {
    const { redraw } = inPage(<WallFigures run={aRun({ in_air_m2: 0.0004, all_wet_s: null })} />);
    expect(said()).toContain("A bubble of trapped air kept 4\u00a0cm² dry");
    expect(said()).toContain("All wetnever");
    expect(said()).toContain("Stillat once");
    redraw(<WallFigures run={aRun({ still_s: 200 })} />);
    expect(said()).not.toContain("bubble");
    expect(said()).toContain("Stillafter 3\u00a0min");
    expect(said()).toContain("Centre of mass at 1, -20, 80\u00a0mm");
    const [, second] = screen.getAllByRole("row").slice(1);
    expect(second?.lastElementChild?.textContent).toBe("never all");
  });
});

describe("a coat that is played back", () => {
  const START: Look = { coat: 0, cut: 1, playing: false, share: 0 };
  let look = START;

  function Tools() {
    const [now, setNow] = useState(START);
    look = now;
    const [onLook] = useState(
      () => (part: Partial<Look>) => setNow((old) => ({ ...old, ...part })),
    );
    return <LookTools coats={3} look={now} onLook={onLook} />;
  }
  /** Each picture is drawn before the next is due. */
  async function pass(ms: number) {
    for (let at = 0; at < ms; at += 120) await act(() => vi.advanceTimersByTimeAsync(120));
  }
  const press = (words: string) => fireEvent.click(screen.getByText(words));

  beforeEach(() => vi.useFakeTimers());

  it("is the first where all are shown, takes 18 s, and then stands still at its end", async () => {
    inPage(<Tools />);
    press("Play it back");
    expect(look).toMatchObject({ playing: true, coat: 1, share: 0 });
    await pass(9000);
    expect(look.share).toBeGreaterThan(0.45);
    expect(look.share).toBeLessThanOrEqual(0.5);
    await pass(10_000);
    expect(look.share).toBe(1);
    expect(screen.getByText("Play it back")).toBeTruthy();
    // Once more is from its beginning.
    press("Play it back");
    expect(look.share).toBe(0);
  });

  it("is held, goes on from there, and gives way to the wall", async () => {
    inPage(<Tools />);
    press("Play it back");
    await pass(3000);
    press("Hold");
    const { share } = look;
    await pass(5000);
    expect(look.share).toBe(share);
    press("Play it back");
    expect(look.share).toBe(share);
    await pass(1000);
    expect(look.share).toBeGreaterThan(share);
    press("The wall again");
    expect(look.playing).toBe(false);
    const { share: left } = look;
    await pass(2000);
    expect(look.share).toBe(left);
  });
});
