// @vitest-environment jsdom
import { fireEvent, screen } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import type { Piece } from "../../api/client";
import { useUnits } from "../../shared/units";
import { inPage, leavePage } from "../../testing/page";
import { QuestionsPanel } from "./QuestionsPanel";
import type { useSurveyChange } from "./queries";

type Survey = ReturnType<typeof useSurveyChange>;

beforeEach(() => useUnits.setState({ system: "metric" }));
afterEach(leavePage);

const piece = {
  survey: {
    asks: [
      {
        id: "skin",
        title: "Is it hollow?",
        text: "There is a second skin 2 mm inside.",
        choices: [
          {
            id: "outer",
            title: "Leave the inner skin out",
            field: "skin",
            value: "outer",
            area_m2: 0.06,
          },
          { id: "all", title: "Count all of it", field: "skin", value: "all", area_m2: null },
        ],
      },
    ],
  },
} as unknown as Piece;

const survey = (part: Partial<Survey>): Survey =>
  ({ change: vi.fn(), isBusy: false, job: undefined, error: null, ...part }) as unknown as Survey;

describe("a question about a file", () => {
  it("says what each answer would count, and is answered by one press", () => {
    const asked = survey({});
    inPage(<QuestionsPanel piece={piece} survey={asked} />);
    const [outer, all] = [...document.querySelectorAll(".answer")];
    expect(outer?.textContent).toBe("600\u00a0cm²Leave the inner skin out");
    expect(all?.textContent).toBe("Count all of it");
    fireEvent.click(screen.getByText("Leave the inner skin out"));
    expect(asked.change).toHaveBeenCalledWith({ skin: "outer" });
  });

  it("is not answered twice while the first answer is worked on", () => {
    const asked = survey({ isBusy: true });
    inPage(<QuestionsPanel piece={piece} survey={asked} />);
    fireEvent.click(screen.getByText("Count all of it"));
    expect(asked.change).not.toHaveBeenCalled();
  });

  it("tells why an answer came to nothing", () => {
    inPage(
      <QuestionsPanel
        piece={piece}
        survey={survey({ error: new Error("It has no outer skin.") })}
      />,
    );
    expect(document.body.textContent).toContain("It has no outer skin.");
  });

  it("is not there for a piece that leaves nothing open", () => {
    inPage(<QuestionsPanel piece={{ survey: null } as Piece} survey={survey({})} />);
    expect(screen.queryByRole("button")).toBeNull();
  });
});
