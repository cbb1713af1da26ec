// @vitest-environment jsdom
import { fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import type { Job } from "../../api/client";
import { aServer, inPage, leavePage, Refusal, withDialogs } from "../../testing/page";
import { UploadDialog } from "./UploadDialog";

vi.setConfig({ testTimeout: 60_000 });

beforeEach(withDialogs);
afterEach(leavePage);

const LIMIT_BYTES = 2e6;
const job = (part: Partial<Job>): Job =>
  ({ id: "j", title: "beak.v2.stl", status: "done", share: 1, said: "", ...part }) as Job;

/** A server that reads files, and pieces of them, as a test says. */
function aReader(part: { sure?: boolean; reading?: Job; measuring?: Job; refuses?: string } = {}) {
  const { sure = true, reading = job({}), measuring = job({ piece_id: "made" }), refuses } = part;
  const heard = aServer(({ method, path }) => {
    if (path === "/workshop") return { max_mesh_file_bytes: LIMIT_BYTES };
    if (path === "/mesh-files")
      return refuses ? new Refusal(422, refuses) : { sha256: "abc", job: { ...reading, id: "r" } };
    if (path === "/jobs/r") return reading;
    if (path === "/pieces" && method === "POST") return { ...measuring, id: "m" };
    if (path === "/jobs/m") return measuring;
    return {
      sha256: "abc",
      file_name: "beak.v2.stl",
      guessed_unit: "mm",
      guess_is_sure: sure,
      choices: [
        { units: "mm", extents_m: [0.167, 0.163, 0.136] },
        { units: "in", extents_m: [4.24, 4.14, 3.45] },
      ],
    };
  });
  const onClose = vi.fn();
  const page = inPage(<UploadDialog open onClose={onClose} />, "/pieces");
  function choose(bytes = 10) {
    const input = document.querySelector<HTMLInputElement>("input[type=file]");
    if (!input) throw new Error("no field for a file");
    const file = new File([new Uint8Array(bytes)], "beak.v2.stl");
    fireEvent.change(input, { target: { files: [file] } });
  }
  const sent = (path: string) => heard.filter((one) => one.path === path && one.method === "POST");
  return { ...page, choose, sent, onClose };
}

describe("a shape that is uploaded", () => {
  it("is measured in the unit that is guessed, under the name of its file", async () => {
    const { choose, sent, where, onClose } = aReader();
    choose();
    await screen.findByText(/^Going by the file and its size/);
    expect(screen.getByLabelText<HTMLInputElement>("Name of the piece").value).toBe("beak.v2");
    const guessed = screen.getByLabelText<HTMLInputElement>(/^mm: the piece is 167 × 163 × 136/);
    expect(guessed.checked).toBe(true);
    fireEvent.click(screen.getByText("Measure it"));
    await waitFor(() => expect(where()).toBe("/pieces/made"));
    expect(sent("/pieces").map((one) => one.body)).toEqual([
      { name: "beak.v2", mesh_sha256: "abc", units: "mm" },
    ]);
    expect(onClose).toHaveBeenCalled();
  });

  it("is measured in another unit where its maker knows better", async () => {
    const { choose, sent } = aReader({ sure: false });
    choose();
    await screen.findByText(/does not say its unit/);
    fireEvent.click(screen.getByLabelText(/^in: the piece is/));
    fireEvent.change(screen.getByLabelText("Name of the piece"), { target: { value: "Beak" } });
    fireEvent.click(screen.getByText("Measure it"));
    await waitFor(() => expect(sent("/pieces").length).toBe(1));
    expect(sent("/pieces")[0]?.body).toMatchObject({ name: "Beak", units: "in" });
  });

  it("is not sent where it is too large, and it is said by how much", async () => {
    const { choose, sent } = aReader();
    choose(3e6);
    await screen.findByText(/The file has 3 MB; up to 2 MB are read\. Reduce the number of faces/);
    expect(sent("/mesh-files")).toEqual([]);
    // A smaller one is taken after it.
    choose(1000);
    await screen.findByLabelText("Name of the piece");
    expect(screen.queryByText(/Reduce the number/)).toBeNull();
  });

  it("is refused in the server's sentence, or in that of the worker that reads it", async () => {
    const first = aReader({ refuses: "The file is empty." });
    first.choose();
    await screen.findByText(/The file is empty\./);
    leavePage();
    const { choose } = aReader({
      reading: job({ status: "refused", said: "The file has no faces." }),
    });
    choose();
    await screen.findByText(/The file has no faces\./);
    // Another one can be chosen at once.
    expect(screen.getByText(/^Drop a shape here/)).toBeTruthy();
  });

  it("goes on being measured when the dialog is left", async () => {
    const { choose, onClose, where } = aReader({
      measuring: job({ status: "running", share: 0.3, said: "curvature" }),
    });
    choose();
    await screen.findByLabelText("Name of the piece");
    fireEvent.click(screen.getByText("Measure it"));
    await screen.findByText(/You may close this: it goes on/);
    expect(screen.getByRole("progressbar").getAttribute("value")).toBe("0.3");
    expect([where(), onClose.mock.calls.length]).toEqual(["/pieces", 0]);
  });

  it("that cannot be measured leaves the question, to be answered otherwise", async () => {
    const { choose } = aReader({
      measuring: job({ status: "refused", said: "The piece would be 4 m across." }),
    });
    choose();
    await screen.findByLabelText("Name of the piece");
    fireEvent.click(screen.getByText("Measure it"));
    await screen.findByText(/The piece would be 4 m across\./);
    expect(screen.getByText("Measure it")).toBeTruthy();
  });
});
