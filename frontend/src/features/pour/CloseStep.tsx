import { Button, Input } from "antd";
import { useState } from "react";
import { useNavigate } from "react-router";

import type { Pour } from "../../api/client";
import { carried, readField } from "../../shared/format";
import { Failed } from "../../shared/states";
import { secondsOf, useServerNow } from "./clock";
import { useClosePour, useTakeBack } from "./queries";
import { BenchCautions } from "./BenchCautions";
import { Ring } from "./Ring";

/** After the last coat: wait, take it out, weigh it, close the pour. */
export function CloseStep({ pour }: { pour: Pour }) {
  const now = useServerNow(pour.now);
  const close = useClosePour(pour.id);
  const takeBack = useTakeBack(pour.id);
  const navigate = useNavigate();
  const [weight, setWeight] = useState("");
  const [note, setNote] = useState(pour.note);
  const castKg = readField(weight, "kg", "metric");
  const last = pour.coats[pour.coats.length - 1];
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
            }}
          />
        )}
        <form
          className="close-form"
          onSubmit={(event) => {
            event.preventDefault();
            if (castKg === null) return;
            close.mutate(
              { status: "cast", cast_kg: castKg, note },
              { onSuccess: () => void navigate(`/log/${pour.id}`) },
            );
          }}
        >
          <label>
            The cast weighs (planned {carried(pour.plan.cast_kg, "metric")})
            <Input
              value={weight}
              inputMode="decimal"
              autoComplete="off"
              suffix="g"
              status={wrong ? "error" : ""}
              onChange={(event) => setWeight(event.target.value)}
            />
          </label>
          {wrong && <p className="wrong">“{weight}” is not a number; give grams.</p>}
          <label>
            Note
            <Input.TextArea
              rows={2}
              value={note}
              maxLength={4000}
              onChange={(event) => setNote(event.target.value)}
            />
          </label>
          {close.error && <Failed error={close.error} />}
          <Button
            type="primary"
            className="press"
            htmlType="submit"
            disabled={castKg === null}
            loading={close.isPending}
          >
            It is out: close the pour
          </Button>
          <div className="bench-foot">
            <Button type="text" onClick={() => takeBack.mutate(undefined)}>
              Take the last tick back
            </Button>
          </div>
        </form>
      </div>
      <BenchCautions pour={pour} operations={["demould", "trim", "clean"]} />
    </section>
  );
}
