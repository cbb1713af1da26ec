// @vitest-environment jsdom
import { fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";

import type { TrailLine } from "../../api/client";
import { clockTime, day } from "../../shared/format";
import { thingIn } from "../../shared/things";
import { aServer, inPage, leavePage, Refusal } from "../../testing/page";
import { TrailPage } from "./TrailPage";
import { fieldName, placeOf, valueOf } from "./trailWords";

vi.setConfig({ testTimeout: 60_000 });

afterEach(leavePage);

const AT = "2026-06-01T12:00:00Z";

function aLine(more: Partial<TrailLine> = {}): TrailLine {
  return {
    id: "1",
    at: AT,
    by: "Ilse",
    action: "changed",
    what: "cast_sheet",
    thing_id: "s",
    name: "Market day",
    changes: [],
    ...more,
  };
}

describe("the words of the trail", () => {
  it.each([
    ["wish.wall_m", "wall"],
    ["rubber_wall_m", "rubber wall"],
    ["material_id", "material"],
    ["weighed_at", "weighed"],
    ["due_on", "due"],
    ["cast_g", "cast weight"],
    ["wish.room_temperature_k", "room"],
    ["life_casts", "life casts"],
    ["sheet.pot_life_s", "pot life"],
  ])("a field %s is called %s", (field, words) => {
    expect(fieldName(field)).toBe(words);
  });

  it.each([
    ["wish.wall_m", 0.0042, "metric", "4.2\u00a0mm"],
    // 4.2 mm / 25.4 mm an inch, to three digits (NIST SP 811).
    ["wish.wall_m", 0.0042, "imperial", "0.165\u00a0in"],
    ["a_g", 51.2, "metric", "51.2\u00a0g"],
    ["cast_kg", 0.1, "metric", "100.0\u00a0g"],
    ["pot_life_s", 240, "metric", "4.0\u00a0min"],
    ["room_temperature_k", 296.15, "metric", "23\u00a0°C"],
    ["allowance", 0.15, "metric", "15\u00a0%"],
    ["hour_rate", 31.5, "metric", "31.5"],
    ["is_worn", true, "metric", "yes"],
    ["note", "", "metric", "nothing"],
    ["note", null, "metric", "nothing"],
    ["weighed_at", AT, "metric", `${day(AT)}, ${clockTime(AT)}`],
    ["mould_ids", ["a", "b"], "metric", "another value"],
    ["note", "x".repeat(80), "metric", `${"x".repeat(60)} …`],
  ] as const)("%s of %s reads in %s as %s", (field, value, system, words) => {
    expect(valueOf(field, value, system)).toBe(words);
  });

  it("lead to the thing as long as it is there", () => {
    expect(placeOf(aLine())).toBe("/sheets/s");
    expect(placeOf(aLine({ what: "pour", thing_id: "p" }))).toBe("/log/p");
    expect(placeOf(aLine({ action: "deleted" }))).toBeNull();
    expect(placeOf(aLine({ what: "account", thing_id: "a" }))).toBeNull();
    expect(thingIn("poured_coat")).toBe("coat");
  });
});

describe("the page of the trail", () => {
  it("says who did what to what, and what it was before", async () => {
    const changes = [
      { field: "wish.wall_m", before: 0.003, after: 0.0042 },
      { field: "name", before: "Fair", after: "Market day" },
    ];
    const entries = [
      aLine({ changes }),
      aLine({ id: "2", action: "deleted", what: "lot", name: "Shelf 2", by: "", changes }),
    ];
    aServer(() => ({ entries, total: 2 }));
    inPage(<TrailPage />);
    const table = await screen.findByRole("table", { name: "Who did what" });
    const [changed, deleted] = [...table.querySelectorAll("tbody tr")];
    expect(changed?.textContent).toContain("changed cast sheet Market day");
    expect(changed?.querySelector("a")?.getAttribute("href")).toBe("/sheets/s");
    const told = [...(changed?.querySelectorAll("li") ?? [])].map((one) => one.textContent);
    expect(told).toEqual(["wall: 3.0\u00a0mm 4.2\u00a0mm", "name: Fair Market day"]);
    expect(changed?.querySelector("del")?.textContent).toBe("3.0\u00a0mm");
    expect(deleted?.textContent).toContain("Anybody");
    expect(deleted?.textContent).toContain("deleted lot Shelf 2");
    expect(deleted?.querySelectorAll("li")).toHaveLength(0);
  });

  it("is searched, and says where nothing is found or nothing was done", async () => {
    const heard = aServer(() => ({ entries: [], total: 0 }));
    inPage(<TrailPage />);
    await screen.findByText("Nothing was changed yet.");
    const field = screen.getByLabelText("Search by person or thing");
    fireEvent.change(field, { target: { value: "Piet" } });
    await screen.findByText("Nothing like that was done.");
    await waitFor(() => expect(heard.at(-1)?.path).toMatch(/offset=0&search=Piet$/));
  });

  it("says why it is not shown", async () => {
    aServer(() => new Refusal(403, "An apprentice may pour and log."));
    inPage(<TrailPage />);
    await screen.findByText(/An apprentice may pour and log/);
  });
});
