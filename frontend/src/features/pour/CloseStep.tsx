import { Button } from "antd";
import { useState } from "react";
import { useNavigate } from "react-router";

import type { Pour } from "../../api/client";
import { carried, readField } from "../../shared/format";
import { BenchInput } from "./BenchInput";
import { BenchCautions } from "./BenchCautions";
import { secondsOf } from "./clock";
import { press } from "./outbox";
import { Ring } from "./Ring";
import { useServerNow } from "./serverClock";
import { TakeBack } from "./TakeBack";

interface Properties {
  pour: Pour;
  /** Where coats are left out: one more after all. */
  onGoOn?: () => void;
}

/** After the last coat: wait, take it out, weigh it, close the pour. */
export function CloseStep({ pour, onGoOn }: Properties) {
  const now = useServerNow();
  const navigate = useNavigate();
  const [weight, setWeight] = useState("");
  const [note, setNote] = useState(pour.note);
  const castKg = readField(weight, "kg", "metric");
  const last = pour.coats.findLast((coat) => coat.gelled_at !== null);
  const wrong = weight !== "" && castKg === null;

  return (
    <section className="step">
      <p className="say">Let it cure, then peel slowly</p>
      <div className="with-ring">
        {last?.mixed_at && last.times && (
          <Ring
            now={now}
            running={{
              label: "demould in about",
              from: secondsOf(last.mixed_at),
              until: secondsOf(last.times.demould),
              over: "it may come out",
              tone: "next",
            }}
          />
        )}
        <form
          className="close-form"
          onSubmit={(event) => {
            event.preventDefault();
            if (castKg === null) return;
            void press(pour.id, { kind: "close", status: "cast", cast_kg: castKg, note }).then(
              () => void navigate(`/log/${pour.id}`),
            );
          }}
        >
          <label>
            The cast weighs (planned {carried(pour.plan.cast_kg, "metric")})
            <BenchInput
              value={weight}
              inputMode="decimal"
              unit="g"
              wrong={Boolean(wrong)}
              onText={setWeight}
            />
          </label>
          {wrong && <p className="wrong">“{weight}” is not a number; give grams.</p>}
          <label>
            Note
            <textarea
              className="bench-input"
              rows={2}
              value={note}
              maxLength={4000}
              onChange={(event) => setNote(event.target.value)}
            />
          </label>
          <Button type="primary" className="press" htmlType="submit" disabled={castKg === null}>
            It is out: close the pour
          </Button>
          <div className="bench-foot">
            {onGoOn ? (
              <Button type="text" onClick={onGoOn}>
                One more coat after all
              </Button>
            ) : (
              <TakeBack pour={pour} />
            )}
          </div>
        </form>
      </div>
      <BenchCautions pour={pour} operations={["demould", "trim", "clean"]} />
    </section>
  );
}
