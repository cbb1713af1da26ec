// @vitest-environment jsdom
import { fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { hasComeIn, onStranger } from "../../api/client";
import { Menu } from "../../shared/Menu";
import { Notices } from "../../shared/Notices";
import { Question } from "../../shared/Question";
import { accessQuery, useStanding } from "../../shared/standing";
import { aServer, inPage, leavePage, Refusal, withDialogs, type Asked } from "../../testing/page";
import { AccessPanel } from "./AccessPanel";
import { JoinPage } from "./JoinPage";
import { AskWho } from "./AskWho";
import { useSignedOut } from "./signedOut";
import { Somebody } from "./Somebody";

vi.setConfig({ testTimeout: 60_000 });

beforeEach(withDialogs);
afterEach(() => {
  leavePage();
  useSignedOut.setState({ isOut: false });
  window.location.hash = "";
});

/** As the application does. */
function listens() {
  onStranger(
    () => useSignedOut.setState({ isOut: true }),
    () => useSignedOut.setState({ isOut: false }),
  );
}

const ALL = ["look", "pour", "make", "own"];
const OPEN = {
  is_signed_in: false,
  is_open: true,
  name: "",
  role: "owner",
  rights: ALL,
  shortest_password: 12,
};
const ILSE = { ...OPEN, is_signed_in: true, is_open: false, name: "Ilse" };
const LISTS = {
  accounts: [
    { id: "a", name: "Ilse", role: "owner", is_you: true, seen_at: "2026-06-01T12:00:00Z" },
    { id: "b", name: "Piet", role: "guest", is_you: false, seen_at: null },
  ],
  signed_in: [
    browser("x", { name: "Ilse", is_this: true }),
    browser("y", { name: "By the sink", is_tablet: true }),
  ],
  invitations: [
    { id: "i", role: "maker", name: "Uta", is_new: true, ends_at: "2026-06-08T12:00:00Z" },
    { id: "j", role: "guest", name: "Piet", is_new: false, ends_at: "2026-06-08T12:00:00Z" },
  ],
};

function browser(id: string, more: object) {
  const at = "2026-06-01T12:00:00Z";
  return { id, name: "", is_tablet: false, is_this: false, since: at, seen_at: at, ...more };
}

function type(label: RegExp, text: string) {
  fireEvent.change(screen.getByLabelText(label), { target: { value: text } });
}

const press = (name: string | RegExp) => fireEvent.click(screen.getByRole("button", { name }));
const asked = (heard: Asked[], path: string) =>
  heard.filter((one) => one.path === path && one.method !== "GET");

describe("a workshop that is open to anybody", () => {
  it("is given its owner by a name and a password that is long enough", async () => {
    let access: object = OPEN;
    const heard = aServer(({ path }) => {
      if (path === "/access") return access;
      if (path === "/accounts") return LISTS;
      access = ILSE;
      return { signed_in: true };
    });
    inPage(<AccessPanel />);
    await screen.findByText(/needs no password/);
    const ok = screen.getByRole<HTMLButtonElement>("button", { name: "Set the password" });
    type(/^Name/, "Ilse");
    type(/New password/, "eleven char");
    expect(ok.disabled).toBe(true);
    type(/New password/, "twelve chars");
    expect(ok.disabled).toBe(false);
    fireEvent.click(ok);
    await screen.findByText(/You are signed in as/);
    expect(asked(heard, "/accounts/first")[0]?.body).toEqual({
      name: "Ilse",
      password: "twelve chars",
    });
    expect(screen.queryByText(/needs no password/)).toBeNull();
  });

  it("says at its field what is wrong with a password", async () => {
    aServer(({ path }) =>
      path === "/access" ? OPEN : new Refusal(422, "That is easy to guess.", "password"),
    );
    inPage(<AccessPanel />);
    await screen.findByText(/needs no password/);
    type(/^Name/, "Ilse");
    type(/New password/, "ilse ilse ilse");
    press("Set the password");
    const said = await screen.findByText("That is easy to guess.");
    expect(said.closest("label")?.textContent).toContain("New password");
    // Said once, at the field.
    expect(document.querySelector(".told.refusal")).toBeNull();
  });
});

describe("the owner", () => {
  async function anOwner(answer: (asked: Asked) => unknown = () => ({})) {
    const heard = aServer((one) => {
      if (one.path === "/access") return ILSE;
      if (one.path === "/accounts") return LISTS;
      return answer(one);
    });
    inPage(
      <>
        <AccessPanel />
        <Question />
        <Notices />
      </>,
    );
    await screen.findByRole("list", { name: "Accounts" });
    return heard;
  }

  it("sees who has an account, who is in and who is invited", async () => {
    await anOwner();
    const rows = (name: string) =>
      [...screen.getByRole("list", { name }).querySelectorAll("b")].map((one) => one.textContent);
    expect(rows("Accounts")).toEqual(["Ilse", "Piet"]);
    expect(rows("Signed in")).toEqual(["Ilse", "By the sink"]);
    expect(rows("Invitations")).toEqual(["Uta", "Piet"]);
    // Nobody signs out here the browser that is looked at; the rail does.
    expect(screen.queryByRole("button", { name: "Sign out Ilse" })).toBeNull();
    const invited = screen.getByRole("list", { name: "Invitations" }).textContent;
    expect(invited).toMatch(/Maker.*New password/);
  });

  it("makes a link that is shown once and holds its secret behind the #", async () => {
    const heard = await anOwner(() => ({ id: "k", secret: "s3cr3t", ends_at: "2026-06-08" }));
    type(/Who is invited/, "Jo");
    press("Make a link");
    const link = await screen.findByLabelText<HTMLInputElement>(/Send this link to Jo/);
    expect(link.value).toBe(`${window.location.origin}/join#s3cr3t`);
    expect(asked(heard, "/invitations")[0]?.body).toEqual({ role: "maker", name: "Jo" });
  });

  it("makes a link to a new password for somebody who is there", async () => {
    const heard = await anOwner(() => ({ id: "k", secret: "anew", ends_at: "2026-06-08" }));
    fireEvent.click(screen.getAllByRole("button", { name: "New password" })[1] as HTMLElement);
    const link = await screen.findByLabelText<HTMLInputElement>(/Send this link to Piet/);
    expect(link.value).toContain("#anew");
    expect(asked(heard, "/invitations")[0]?.body).toMatchObject({ account_id: "b" });
  });

  it("removes an account only once that was asked, and hears why it cannot be", async () => {
    const heard = await anOwner(() => new Refusal(409, "A workshop has an owner."));
    press("Remove Piet");
    expect(asked(heard, "/accounts/b")).toEqual([]);
    fireEvent.click(await screen.findByRole("button", { name: "Remove", hidden: true }));
    await screen.findByText("A workshop has an owner.");
    expect(asked(heard, "/accounts/b").map((one) => one.method)).toEqual(["DELETE"]);
  });

  it("withdraws invitations and signs tablets out", async () => {
    const heard = await anOwner();
    press("Withdraw the invitation Uta");
    press("Sign out By the sink");
    await waitFor(() => {
      expect(asked(heard, "/invitations/i")).toHaveLength(1);
      expect(asked(heard, "/signed-in/y")).toHaveLength(1);
    });
  });

  it("changes the own password only with the present one", async () => {
    const heard = await anOwner();
    press("Change your password");
    type(/Current password/, "as it was before");
    type(/New password/, "as it will be now");
    press("Save the password");
    await screen.findByText(/The password is changed/);
    const change = { old: "as it was before", password: "as it will be now" };
    expect(asked(heard, "/access/password")[0]?.body).toEqual(change);
  });
});

describe("an invitation", () => {
  const UTA = { workshop: "The Salt Lantern", role: "maker", name: "Uta", is_new: true };

  function opened(welcome: object | Refusal) {
    window.location.hash = "#s3cr3t";
    const heard = aServer(({ path }) =>
      path === "/invitations/welcome"
        ? welcome instanceof Refusal
          ? welcome
          : { shortest_password: 12, ...welcome }
        : { signed_in: true },
    );
    return { heard, ...inPage(<JoinPage />, "/join") };
  }

  it("makes an account and leads to today", async () => {
    const { heard, where } = opened(UTA);
    await screen.findByText(/You are invited. Maker/);
    expect(screen.getByRole("heading", { level: 1 }).textContent).toBe("The Salt Lantern");
    type(/New password/, "long enough, surely");
    press("Join");
    await waitFor(() => expect(where()).toBe("/today"));
    const who = { secret: "s3cr3t", name: "Uta", password: "long enough, surely" };
    expect(asked(heard, "/invitations/accept")[0]?.body).toEqual(who);
  });

  it("to a new password asks for no other name", async () => {
    const { heard, where } = opened({ ...UTA, is_new: false });
    const name = await screen.findByLabelText<HTMLInputElement>(/^Name/);
    expect([name.value, name.readOnly]).toEqual(["Uta", true]);
    type(/New password/, "long enough, surely");
    press("Save the password");
    await waitFor(() => expect(where()).toBe("/today"));
    expect(asked(heard, "/invitations/accept")[0]?.body).toMatchObject({ name: "" });
  });

  it("pairs a tablet by one press, which then stands at the bench", async () => {
    const { where } = opened({ ...UTA, role: "tablet", name: "By the sink" });
    await screen.findByText("By the sink");
    expect(screen.queryByLabelText(/password/)).toBeNull();
    press("Pair this tablet");
    await waitFor(() => expect(where()).toBe("/today/bench"));
  });

  it("that was used says so, and one that is cut short as well", async () => {
    opened(new Refusal(404, "This invitation was used."));
    await screen.findByText("This invitation was used.");
    leavePage();
    window.location.hash = "";
    const heard = aServer(() => ({}));
    inPage(<JoinPage />, "/join");
    screen.getByText(/This link is not whole/);
    expect(heard).toEqual([]);
  });
});

describe("whoever has to sign in", () => {
  it("is asked above the page, which stays, and then everything is asked for anew", async () => {
    let isIn = false;
    const heard = aServer(({ path }) => {
      if (path === "/sign-in") {
        isIn = true;
        return { signed_in: true };
      }
      return isIn ? ILSE : new Refusal(401, "Sign in to this workshop first.");
    });
    listens();
    const { queries } = inPage(
      <>
        <input aria-label="Half a sheet" defaultValue="typed before" />
        <AskWho />
      </>,
    );
    await expect(queries.fetchQuery(accessQuery())).rejects.toThrow("Sign in");
    await screen.findByRole("button", { name: "Sign in", hidden: true });
    fireEvent.change(screen.getByLabelText(/^Name/), { target: { value: "Ilse" } });
    fireEvent.change(screen.getByLabelText(/^Password/), { target: { value: "short" } });
    fireEvent.click(screen.getByRole("button", { name: "Sign in", hidden: true }));
    await waitFor(() => expect(document.querySelector("dialog")).toBeNull());
    expect(asked(heard, "/sign-in")).toHaveLength(1);
    expect(screen.getByLabelText<HTMLInputElement>("Half a sheet").value).toBe("typed before");
  });
});

describe("whoever has just come in", () => {
  it("is not asked again for what was asked before and is refused late", async () => {
    let refuse: (value: Refusal) => void = () => undefined;
    const late = new Promise<Refusal>((resolve) => {
      refuse = resolve;
    });
    const heard = aServer(() => late);
    listens();
    const { queries } = inPage(<AskWho />);
    const before = queries.fetchQuery(accessQuery());
    await waitFor(() => expect(heard).toHaveLength(1));
    hasComeIn();
    refuse(new Refusal(401, "Sign in to this workshop first."));
    await expect(before).rejects.toThrow("Sign in");
    expect(useSignedOut.getState().isOut).toBe(false);
    // What is refused after that is asked.
    await expect(queries.fetchQuery(accessQuery())).rejects.toThrow("Sign in");
    expect(useSignedOut.getState().isOut).toBe(true);
  });
});

describe("what somebody may do", () => {
  function Page() {
    useStanding();
    const entries = [
      { label: "Coats as CSV", onPress: () => undefined },
      { label: "Delete", danger: true, onPress: () => undefined },
    ];
    return (
      <>
        <Somebody />
        <Menu label="More" entries={entries} />
      </>
    );
  }

  it.each([
    { role: "maker", rights: ["look", "pour", "make"], deletes: true },
    { role: "apprentice", rights: ["look", "pour"], deletes: false },
  ])("$role: deleting is offered: $deletes", async ({ role, rights, deletes }) => {
    vi.useFakeTimers({ shouldAdvanceTime: true });
    aServer(({ path }) => (path === "/access" ? { ...ILSE, role, rights } : {}));
    inPage(<Page />);
    // As long as it is not known nobody is kept from anything; the server is.
    expect(screen.queryByText("Delete")).not.toBeNull();
    await vi.advanceTimersByTimeAsync(3_100);
    await screen.findByRole("button", { name: "Sign out" });
    expect(screen.queryByText("Delete") !== null).toBe(deletes);
  });

  it("is not written where nobody has to sign in", async () => {
    vi.useFakeTimers({ shouldAdvanceTime: true });
    aServer(({ path }) => (path === "/access" ? OPEN : {}));
    const { queries } = inPage(<Page />);
    await vi.advanceTimersByTimeAsync(3_100);
    await waitFor(() => expect(queries.getQueryData(["access"])).toBeDefined());
    expect(screen.queryByRole("button", { name: "Sign out" })).toBeNull();
  });
});
