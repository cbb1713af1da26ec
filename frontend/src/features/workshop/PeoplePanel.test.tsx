// @vitest-environment jsdom
import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";

import type { Worker } from "../../api/client";
import { aServer, inPage, leavePage, Refusal } from "../../testing/page";
import { PeoplePanel } from "./PeoplePanel";

vi.setConfig({ testTimeout: 60_000 });
afterEach(leavePage);

const hours = (weekday: number, opens_h: number, closes_h: number, evening_h = 0) => ({
  weekday,
  opens_h,
  closes_h,
  evening_h,
});
const owner: Worker = {
  name: "Mara",
  zone: "Europe/Berlin",
  hours: [hours(0, 8, 17.5, 21), hours(1, 8, 17.5, 21), hours(4, 8, 14)],
  skills: ["spray"],
  days_off: ["2026-07-01"],
  extra: [{ day: "2026-06-06", opens_h: 10, closes_h: 12.25, evening_h: 0 }],
};
const night: Worker = {
  name: "Jon",
  zone: "UTC",
  hours: [hours(5, 22, 30)],
  skills: [],
  days_off: [],
  extra: [],
};

async function aWorkshop(people: Worker[] = [owner, night], refuses = "") {
  const heard = aServer(({ method, body }) => {
    if (method !== "PUT") return { people };
    return refuses ? new Refusal(422, refuses) : (body as object);
  });
  inPage(<PeoplePanel />);
  await screen.findByLabelText("People");
  const of = (at: number) => {
    const found = screen.getAllByRole("group").filter((one) => one.tagName === "FIELDSET")[at];
    if (!found) throw new Error(`no person ${at + 1}`);
    return within(found);
  };
  const type = (at: number, label: string, value: string) =>
    fireEvent.change(of(at).getByLabelText(label), { target: { value } });
  async function saved() {
    fireEvent.click(screen.getByText("Save people"));
    await waitFor(() => expect(heard.some((one) => one.method === "PUT")).toBe(true));
    const { body } = heard.findLast((one) => one.method === "PUT") ?? {};
    return (body as { people: Worker[] }).people;
  }
  return { heard, of, type, saved };
}

describe("who works here", () => {
  it("is the same after it was only looked at, with other hours on some days", async () => {
    const { saved } = await aWorkshop();
    expect(document.body.textContent).toContain(
      "Mon 08:00 to 17:30, Tue 08:00 to 17:30, Fri 08:00",
    );
    expect(document.body.textContent).toContain("10:00 to 12:15");
    expect(await saved()).toEqual([owner, night]);
  });

  it("has the hours that are typed on every day, and keeps zone, skills and days off", async () => {
    const { type, saved } = await aWorkshop([owner]);
    type(0, "From", "07:15");
    expect(await saved()).toEqual([
      {
        ...owner,
        hours: [0, 1, 4].map((weekday) => hours(weekday, 7.25, 17.5, 21)),
      },
    ]);
  });

  it("works into the night where the end is before the beginning", async () => {
    const { type, saved } = await aWorkshop([owner]);
    type(0, "From", "20:00");
    type(0, "Until", "00:00");
    type(0, "Of an evening until", "01:30");
    expect((await saved())[0]?.hours[0]).toEqual(hours(0, 20, 24, 25.5));
  });

  it("gets another day in the order of the week, with the hours of the others", async () => {
    const { of, saved } = await aWorkshop([owner]);
    fireEvent.click(of(0).getByLabelText("Wed"));
    fireEvent.click(of(0).getByLabelText("Mon"));
    expect((await saved())[0]?.hours).toEqual([
      hours(1, 8, 17.5, 21),
      hours(2, 8, 17.5, 21),
      hours(4, 8, 14),
    ]);
  });

  it("is added to with a week from eight to six, in the zone of who adds", async () => {
    const { type, saved } = await aWorkshop([night]);
    fireEvent.click(screen.getByText("Add a person"));
    const save = screen.getByText("Save people").closest("button");
    expect(save?.disabled).toBe(true);
    type(1, "Person", "  Ada ");
    const [, added] = await saved();
    expect(added).toEqual({
      name: "Ada",
      zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
      hours: [0, 1, 2, 3, 4].map((weekday) => hours(weekday, 8, 18)),
      skills: [],
      days_off: [],
      extra: [],
    });
  });

  it("loses the one that is deleted, and cannot be nobody", async () => {
    const { saved } = await aWorkshop();
    fireEvent.click(screen.getByText("Delete Mara"));
    expect(await saved()).toEqual([night]);
    fireEvent.click(screen.getByText("Delete Jon"));
    expect(screen.getByText("Save people").closest("button")?.disabled).toBe(true);
  });

  it("says what the server refuses", async () => {
    const { saved } = await aWorkshop([night], "Two people have one name.");
    await saved();
    await screen.findByText(/Two people have one name\./);
  });
});
