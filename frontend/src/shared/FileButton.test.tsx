// @vitest-environment jsdom
import { fireEvent, screen } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";

import { inPage, leavePage } from "../testing/page";
import { FileButton, FileDrop } from "./FileButton";

afterEach(leavePage);

const shape = new File(["solid"], "mask.stl");

function theInput(): HTMLInputElement {
  const found = document.querySelector<HTMLInputElement>("input[type=file]");
  if (!found) throw new Error("no field for a file");
  return found;
}

it("gives the file that was chosen, and nothing where none was", () => {
  const took = vi.fn();
  inPage(
    <FileButton accept=".stl" onFile={took}>
      Upload
    </FileButton>,
  );
  expect(theInput().accept).toBe(".stl");
  fireEvent.change(theInput(), { target: { files: [shape] } });
  fireEvent.change(theInput(), { target: { files: [] } });
  expect(took.mock.calls).toEqual([[shape]]);
});

it("takes what is dropped on it, and shows that it would", () => {
  const took = vi.fn();
  inPage(
    <FileDrop accept=".stl" onFile={took}>
      Drop a shape here
    </FileDrop>,
  );
  const place = screen.getByText("Drop a shape here");
  fireEvent.dragOver(place);
  expect(place.dataset.over).toBe("true");
  fireEvent.dragLeave(place);
  expect(place.dataset.over).toBeUndefined();
  fireEvent.dragOver(place);
  fireEvent.drop(place, { dataTransfer: { files: [shape] } });
  expect(place.dataset.over).toBeUndefined();
  // A word that is dragged over is no file.
  fireEvent.drop(place, { dataTransfer: { files: [] } });
  expect(took.mock.calls).toEqual([[shape]]);
});

it("asks for no other file while one is read", () => {
  inPage(
    <FileDrop accept=".stl" busy onFile={() => undefined}>
      Reading it
    </FileDrop>,
  );
  expect(screen.getByText<HTMLButtonElement>("Reading it").disabled).toBe(true);
});
