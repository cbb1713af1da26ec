import { Button } from "antd";

import type { Piece, Question, SurveyWish } from "../../api/client";
import { quantity } from "../../shared/format";
import { Failed } from "../../shared/states";
import { useUnits } from "../../shared/units";
import { JobProgress } from "../jobs/JobProgress";
import type { useSurveyChange } from "./queries";

interface Properties {
  piece: Piece;
  survey: ReturnType<typeof useSurveyChange>;
}

/** What the file leaves open: each answer with what it would count, one press each. */
export function QuestionsPanel({ piece, survey }: Properties) {
  const asks = piece.survey?.asks ?? [];
  const { job, error } = survey;
  return (
    <>
      {asks.map((question) => (
        <QuestionCard
          key={question.id}
          question={question}
          isBusy={Boolean(survey.isBusy)}
          onAnswer={survey.change}
        />
      ))}
      {error && <Failed error={error} />}
      {job && job.status !== "done" && <JobProgress job={job} />}
    </>
  );
}

interface CardProperties {
  question: Question;
  isBusy: boolean;
  onAnswer: (changed: Partial<SurveyWish>) => void;
}

function QuestionCard({ question, isBusy, onAnswer }: CardProperties) {
  const system = useUnits((state) => state.system);
  return (
    <section className="card question" aria-label="A question about the file">
      <h2>{question.title}</h2>
      <p>{question.text}</p>
      <div className="answers">
        {question.choices.map((choice) => (
          <Button
            key={choice.id}
            className="answer"
            disabled={isBusy}
            onClick={() => onAnswer({ [choice.field]: choice.value })}
          >
            {choice.area_m2 != null && <b>{quantity(choice.area_m2, "m2", system)}</b>}
            <span>{choice.title}</span>
          </Button>
        ))}
      </div>
    </section>
  );
}
