import { useQuery } from "@tanstack/react-query";
import { Button, Input } from "antd";
import { useEffect, useState } from "react";

import type { Coat, Pour, PourStep } from "../../api/client";
import {
  fieldText,
  number,
  quantity,
  readField,
  unitOf,
  weighed,
  weighedNumber,
  type QuantityKind,
} from "../../shared/format";
import { Failed } from "../../shared/states";
import { allowSound, secondsOf, useServerNow } from "./clock";
import { followQuery, useTakeBack, useTick } from "./queries";
import { BenchCautions, type Operation } from "./BenchCautions";
import { Ring, type Running } from "./Ring";
import { WhenField } from "./WhenField";

interface Properties {
  pour: Pour;
  next: { coat: number; step: PourStep };
}

const SAY: Record<PourStep, string> = {
  weigh: "Measure out",
  mix: "Pour B into A and stir",
  pour: "Scrape, pour round the rim first",
  gel: "Keep it turning",
};
/** What has one part is melted, not mixed. */
const SAY_MELTED: Record<PourStep, string> = {
  weigh: "Weigh the clay",
  mix: "Take the pot off the heat",
  pour: "Pour it round the rim first, not hotter than told",
  gel: "Keep it turning",
};
const OPERATION: Record<PourStep, Operation> = {
  weigh: "measure",
  mix: "mix",
  pour: "roll",
  gel: "roll",
};
const DONE: Record<PourStep, string> = {
  weigh: "Both are measured",
  mix: "A meets B: start the clock",
  pour: "It is in the mould",
  gel: "It has stopped flowing",
};

const DONE_MELTED: Record<PourStep, string> = {
  weigh: "It is weighed",
  mix: "Off the heat: start the clock",
  pour: "It is in the mould",
  gel: "It runs no more",
};

/** One step of one coat: what to do, the clock that matters, one big press. */
export function CoatStep({ pour, next }: Properties) {
  const tick = useTick(pour.id);
  const takeBack = useTakeBack(pour.id);
  const now = useServerNow(pour.now);
  const planned = pour.plan.coats[next.coat - 1];
  const byVolume = pour.plan.ratio_basis === "volume";
  const kind: QuantityKind = byVolume ? "m3" : "kg";
  const wanted = byVolume ? planned?.parts_m3 : planned?.parts_kg;
  const marks = planned?.cup_marks_m;
  const [a, setA] = useState(() => fieldText(wanted?.A ?? 0, kind, "metric"));
  const [b, setB] = useState(() => fieldText(wanted?.B ?? 0, kind, "metric"));
  const [at, setAt] = useState<string | null>(null);
  const onePart = isMelt(pour);
  const parts = { a: readField(a, kind, "metric"), b: readField(b, kind, "metric") };
  const added = Object.entries(planned?.added_kg ?? {}).filter(([, kg]) => kg > 0);
  // More of A than was wanted is never taken out: B and what is added follow it.
  const over = wanted && !onePart && parts.a !== null && parts.a > wanted.A;
  const follow = useQuery({
    ...followQuery(
      [wanted?.A ?? 1, wanted?.B ?? 1, ...added.map(([, kg]) => kg)],
      [parts.a ?? 0, 0, ...added.map(() => 0)],
    ),
    enabled: Boolean(over),
  });
  const followed = over ? follow.data?.add : undefined;
  const wantedB = followed?.[1] ?? wanted?.B ?? 0;
  const besides = added.map(([name, kg], at) => [name, followed?.[at + 2] ?? kg] as const);
  const readable = next.step !== "weigh" || (parts.a !== null && parts.b !== null);
  const running = clockOf(pour, next, now);
  const busy = tick.isPending || takeBack.isPending;

  function done() {
    if (busy || !readable) return;
    allowSound();
    tick.mutate({
      ...next,
      ...(next.step === "weigh" && { parts: { a: parts.a ?? 0, b: parts.b ?? 0 } }),
      ...(at && { at }),
    });
  }

  useEnter(done);

  return (
    <section className="step" aria-live="polite">
      <p className="say">{(onePart ? SAY_MELTED : SAY)[next.step]}</p>
      <div className="with-ring">
        {running && <Ring running={running} now={now} />}
        {next.step === "weigh" && wanted && (
          <div className="weigh">
            <Part
              name={onePart ? "clay" : "A"}
              wanted={wanted.A}
              kind={kind}
              stepKg={pour.plan.scale_step_kg}
              mark={marks?.A}
              text={a}
              onText={setA}
            />
            {!onePart && (
              <Part
                name="B"
                wanted={wantedB}
                kind={kind}
                stepKg={pour.plan.scale_step_kg}
                mark={over ? null : marks?.["A+B"]}
                text={b}
                onText={setB}
              />
            )}
          </div>
        )}
      </div>
      {over && <p className="say-small">A is over: all else follows what was really poured.</p>}
      {next.step === "weigh" && planned && (
        <Besides coat={planned} added={besides} stepKg={pour.plan.scale_step_kg} />
      )}
      {next.step === "weigh" && next.coat === 1 && pour.plan.premix && (
        <p className="say-small">
          First stir all of B: {weighed(pour.plan.premix.b_kg, pour.plan.scale_step_kg)} B
          {pour.plan.premix.tint_kg > 0 &&
            `, ${weighed(pour.plan.premix.tint_kg, pour.plan.scale_step_kg)} tint`}
          {pour.plan.premix.filler_kg > 0 &&
            `, ${weighed(pour.plan.premix.filler_kg, pour.plan.scale_step_kg)} filler`}
          .
        </p>
      )}
      {!readable && <p className="wrong">That is not a number; give what was measured.</p>}
      {tick.error && <Failed error={tick.error} />}
      {takeBack.error && <Failed error={takeBack.error} />}
      <Button type="primary" className="press" onClick={done} disabled={!readable} loading={busy}>
        {(onePart ? DONE_MELTED : DONE)[next.step]}
      </Button>
      <div className="bench-foot">
        <WhenField value={at} onChange={setAt} />
        {pour.last_step && (
          <Button type="text" onClick={() => takeBack.mutate(undefined)} disabled={busy}>
            Take the last tick back
          </Button>
        )}
        <SpoiltHint pour={pour} />
      </div>
      <BenchCautions pour={pour} operations={[OPERATION[next.step]]} />
    </section>
  );
}

interface BesidesProperties {
  coat: Coat;
  added: (readonly [string, number])[];
  stepKg: number;
}

/** What goes into the cup beside A and B. */
function Besides({ coat, added, stepKg }: BesidesProperties) {
  const said = [
    ...added.map(([name, kg]) => `${name} ${weighed(kg, stepKg)}`),
    ...coat.places.map((place) => `${weighed(place.mixed_kg, stepKg)} on ${place.name}`),
  ];
  return said.length === 0 ? null : <p className="say-small">{said.join(", ")}</p>;
}

function SpoiltHint({ pour }: { pour: Pour }) {
  return (
    <a className="spoilt" href={`/log/${pour.id}`}>
      It is spoilt
    </a>
  );
}

interface PartProperties {
  name: "A" | "B" | "clay";
  wanted: number;
  kind: QuantityKind;
  /** Last digit of the scale. [kg] */
  stepKg: number;
  /** How high it stands in the usual cup. [m] */
  mark: number | null | undefined;
  text: string;
  onText: (text: string) => void;
}

/** The amount to measure, as big as it gets, and a field for what it really was. */
function Part({ name, wanted, kind, stepKg, mark, text, onText }: PartProperties) {
  const unit = unitOf(kind, "metric");
  return (
    <div className="part">
      <span className="part-name">{name}</span>
      <b>{kind === "kg" ? weighedNumber(wanted, stepKg) : number(wanted, kind, "metric")}</b>
      <span className="part-unit">{unit}</span>
      {mark != null && (
        <span className="part-mark">
          {name !== "B" ? "cup to" : "cup then to"} {quantity(mark, "m", "metric")}
        </span>
      )}
      <label>
        really
        <Input
          value={text}
          inputMode="decimal"
          autoComplete="off"
          aria-label={`Part ${name}, really measured, in ${unit}`}
          onChange={(event) => onText(event.target.value)}
        />
      </label>
    </div>
  );
}

/** Enter ticks the step off, wherever the focus is. */
function useEnter(done: () => void) {
  useEffect(() => {
    function press(event: KeyboardEvent) {
      const onButton = event.target instanceof HTMLElement && event.target.closest("button, a");
      if (event.key === "Enter" && !onButton && !event.repeat) done();
    }
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  });
}

const isMelt = (pour: Pour) => pour.plan.measured_parts.length === 1;

/** Which clock matters in a step: the cup's, the film's, or the tack window of the coat before. */
function clockOf(pour: Pour, next: Properties["next"], now: number): Running | null {
  const coat = pour.coats[next.coat - 1];
  const before = pour.coats[next.coat - 2];
  if (coat?.mixed_at && coat.times) {
    const from = secondsOf(coat.mixed_at);
    return next.step === "pour"
      ? { label: "pour before", from, until: secondsOf(coat.times.pour_by), over: "pour now, late" }
      : {
          label: isMelt(pour) ? "thickens in about" : "gels in about",
          from,
          until: secondsOf(coat.times.roll_until),
          over: isMelt(pour) ? "roll until it thickens" : "roll until it gels",
        };
  }
  if (!before?.times || !before.mixed_at) return null;
  const opens = secondsOf(before.times.next_from);
  return now < opens
    ? {
        label: "this coat may go on in",
        from: secondsOf(before.mixed_at),
        until: opens,
        over: "the window is open",
      }
    : {
        label: "the window closes in",
        from: opens,
        until: secondsOf(before.times.next_until),
        over: "window closed: key the surface",
      };
}
