// @vitest-environment jsdom
import { act, cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, expect, it, vi } from "vitest";

import { withDialogs } from "../testing/page";
import { Question, useConfirm } from "./Question";

beforeEach(withDialogs);
afterEach(cleanup);

function Deletes({ onOk }: { onOk: () => Promise<unknown> }) {
  const confirm = useConfirm();
  return (
    <>
      <button onClick={() => confirm({ title: "Delete “Owl”?", ok: "Delete", onOk })}>Ask</button>
      <Question />
    </>
  );
}

const button = (name: string) => screen.getByRole("button", { name });

it("does nothing until it is answered, and nothing where the answer is no", () => {
  const onOk = vi.fn(() => Promise.resolve());
  render(<Deletes onOk={onOk} />);
  fireEvent.click(button("Ask"));
  expect(screen.getByRole("alertdialog", { name: "Delete “Owl”?" })).toBeTruthy();
  fireEvent.click(button("Cancel"));
  expect(screen.queryByRole("alertdialog")).toBeNull();
  expect(onOk).not.toHaveBeenCalled();
});

it("is answered no by Escape", () => {
  const onOk = vi.fn(() => Promise.resolve());
  render(<Deletes onOk={onOk} />);
  fireEvent.click(button("Ask"));
  // What the browser makes of the key.
  fireEvent(screen.getByRole("alertdialog"), new Event("cancel", { cancelable: true }));
  expect(screen.queryByRole("alertdialog")).toBeNull();
  expect(onOk).not.toHaveBeenCalled();
});

it("stays until it is done, and goes once", async () => {
  let finish = () => {};
  const onOk = vi.fn(() => new Promise<void>((resolve) => (finish = resolve)));
  render(<Deletes onOk={onOk} />);
  fireEvent.click(button("Ask"));
  fireEvent.click(button("Delete"));
  expect(screen.getByRole("alertdialog")).toBeTruthy();
  await act(async () => {
    finish();
    await Promise.resolve();
  });
  expect(screen.queryByRole("alertdialog")).toBeNull();
  expect(onOk).toHaveBeenCalledTimes(1);
});
