// @vitest-environment jsdom
import { fireEvent, screen } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";

import { inPage, leavePage } from "../testing/page";
import { Menu } from "./Menu";

afterEach(leavePage);

function aMenu(disabled = false) {
  const did: string[] = [];
  const entry = (label: string) => ({ label, onPress: () => void did.push(label) });
  inPage(
    <>
      <Menu
        label="More"
        disabled={disabled}
        entries={[entry("As CSV"), entry("What it costs"), { ...entry("Delete"), danger: true }]}
      />
      <button type="button">Elsewhere</button>
    </>,
  );
  const opener = screen.getByText("More");
  const menu = opener.closest("details");
  if (!menu) throw new Error("no menu");
  const press = (key: string) => fireEvent.keyDown(document.activeElement ?? menu, { key });
  const at = () => document.activeElement?.textContent;
  return { did, menu, opener, press, at };
}

describe("a menu", () => {
  it("is walked through by arrows, round and round", () => {
    const { menu, opener, press, at } = aMenu();
    menu.open = true;
    opener.focus();
    press("ArrowDown");
    expect(at()).toBe("As CSV");
    press("ArrowDown");
    press("ArrowDown");
    expect(at()).toBe("Delete");
    press("ArrowDown");
    expect(at()).toBe("As CSV");
    press("ArrowUp");
    expect(at()).toBe("Delete");
    press("Home");
    expect(at()).toBe("As CSV");
    press("End");
    expect(at()).toBe("Delete");
  });

  it("is closed by Escape, which leads back to what opened it and goes no further", () => {
    const { menu, opener, press } = aMenu();
    const further = vi.fn();
    window.addEventListener("keydown", further);
    menu.open = true;
    opener.focus();
    press("ArrowDown");
    further.mockClear();
    press("Escape");
    expect(menu.open).toBe(false);
    expect(document.activeElement).toBe(opener);
    expect(further).not.toHaveBeenCalled();
    // A closed one leaves Escape to whatever is above it.
    press("Escape");
    expect(further).toHaveBeenCalledOnce();
    window.removeEventListener("keydown", further);
  });

  it("keeps no arrows while it is closed", () => {
    const { opener, press } = aMenu();
    opener.focus();
    press("ArrowDown");
    expect(document.activeElement).toBe(opener);
  });

  it("closes before it does what was pressed, and when somebody goes elsewhere", () => {
    const { did, menu } = aMenu();
    menu.open = true;
    fireEvent.click(screen.getByText("What it costs"));
    expect([did, menu.open]).toEqual([["What it costs"], false]);
    menu.open = true;
    const entry = screen.getByText("As CSV");
    fireEvent.blur(entry, { relatedTarget: screen.getByText("Delete") });
    expect(menu.open).toBe(true);
    fireEvent.blur(entry, { relatedTarget: screen.getByText("Elsewhere") });
    expect(menu.open).toBe(false);
  });

  it("does not open while it is of no use", () => {
    const { opener } = aMenu(true);
    expect(opener.getAttribute("aria-disabled")).toBe("true");
    expect(fireEvent.click(opener)).toBe(false);
  });
});
