import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useEffect, useRef, useState } from "react";

import type { Coat, Pour, PourStep } from "../../api/client";
import {
  countdown,
  fieldText,
  number,
  quantity,
  readField,
  unitOf,
  weighed,
  weighedNumber,
  withUnit,
  type QuantityKind,
} from "../../shared/format";
import { useDeviceOf } from "../../shared/live";
import { Failed } from "../../shared/states";
import { BenchInput } from "./BenchInput";
import { BenchCautions, type Operation } from "./BenchCautions";
import { secondsOf } from "./clock";
import { LiveWeigh } from "./LiveWeigh";
import { MachinePanel } from "./MachinePanel";
import { Missed } from "./Missed";
import { press } from "./outbox";
import { followQuery, useOnScale } from "./queries";
import { Ring, type Running } from "./Ring";
import { RollGuide } from "./RollGuide";
import { useServerNow } from "./serverClock";
import { startWhenTaken } from "./startWithPour";
import { TabletTurn } from "./TabletTurn";
import { TakeBack } from "./TakeBack";
import { allowSound } from "./tones";
import { WhenField } from "./WhenField";

interface Properties {
  pour: Pour;
  next: { coat: number; step: PourStep };
}

interface StepProperties extends Properties {
  /** No coat more: what is in the mould is let cure. */
  onStop: () => void;
}

const BOUNCE_MS = 400;
const SAY: Record<PourStep, string> = {
  weigh: "Measure out",
  mix: "Pour B into A and stir",
  pour: "Stir, scrape, pour round the rim",
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

/** One step of one coat: on the live scale where one was chosen, else by hand. */
export function CoatStep({ pour, next, onStop }: StepProperties) {
  const now = useServerNow();
  const running = clockOf(pour, next, now);
  if (next.step !== "weigh" || pour.scale_id === null)
    return <HandStep pour={pour} next={next} onStop={onStop} />;
  return (
    <section className="step">
      <Missed pour={pour} onStop={onStop} />
      <div className="with-ring">
        {running && <Ring running={running} now={now} />}
        <LiveWeigh pour={pour} scale={pour.scale_id} />
      </div>
      <BenchCautions pour={pour} operations={["measure"]} />
    </section>
  );
}

/** What to do, the clock that matters, one big press. */
function HandStep({ pour, next, onStop }: StepProperties) {
  const now = useServerNow();
  const isArmed = useArmed();
  const planned = pour.plan.coats[next.coat - 1];
  const coat = pour.coats[next.coat - 1];
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
  const machine = useDeviceOf("machine");
  const canStart = Boolean(
    next.step === "pour" && machine && coat?.rates && !machine.fault && at === null,
  );

  function done() {
    if (!isArmed || !readable) return;
    allowSound();
    const weighed = next.step === "weigh" && { parts: { a: parts.a ?? 0, b: parts.b ?? 0 } };
    return press(pour.id, { kind: "tick", ...next, ...weighed }, at);
  }

  function doneAndStart() {
    const taken = done();
    if (taken) void startWhenTaken(pour.id, next.coat, taken);
  }

  useEnter(done);
  const say = useFocusWhereNone();

  return (
    <section className="step">
      <InRoom pour={pour} next={next} />
      {next.step === "weigh" && <Damp pour={pour} />}
      <Missed pour={pour} onStop={onStop} />
      <p className="say" ref={say} tabIndex={-1}>
        {(onePart ? SAY_MELTED : SAY)[next.step]}
      </p>
      <div className="with-ring">
        {running && <Ring running={running} now={now} />}
        {next.step === "gel" && coat && <RollGuide coat={coat} now={now} />}
        {next.step === "gel" && <MachinePanel pour={pour} coat={next.coat} />}
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
      {next.step === "gel" && <TabletTurn pour={pour.id} coat={next.coat} />}
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
      {next.step === "weigh" && <OnScale pour={pour} />}
      <Button type="primary" className="press" onClick={done} disabled={!readable || !isArmed}>
        {(onePart ? DONE_MELTED : DONE)[next.step]}
      </Button>
      {canStart && <AndStart onPress={doneAndStart} />}
      <div className="bench-foot">
        <WhenField value={at} onChange={setAt} />
        <TakeBack pour={pour} />
        <SpoiltHint pour={pour} />
      </div>
      <BenchCautions pour={pour} operations={[OPERATION[next.step]]} />
    </section>
  );
}

/** Tick it off and start the machine: it may appear under a finger, so it takes its own moment. */
function AndStart({ onPress }: { onPress: () => void }) {
  const isArmed = useArmed();
  return (
    <div className="with-start">
      <Button className="press-second" disabled={!isArmed} onClick={onPress}>
        It is in the mould: start the machine
      </Button>
      <p className="bench-caution">
        It turns at once: lid on, mould clamped, hands and sleeves out of the frame.
      </p>
    </div>
  );
}

/** What the room does to the clock that matters now, where it is not as planned. */
function InRoom({ pour, next }: Properties) {
  const shifted = pour.coats[next.coat - 1]?.in_room;
  // One thing at a time: a missed window comes first.
  if (!shifted || pour.missed) return null;
  const { now, planned } = shifted;
  const isWarm = shifted.room_k > shifted.planned_k;
  const [is, was, what] =
    next.step === "gel"
      ? ([now.roll_until_s, planned.roll_until_s, "it gels after"] as const)
      : ([now.pour_by_s, planned.pour_by_s, "it has to be in the mould"] as const);
  return (
    <p className="in-room" role="status">
      The room is {quantity(shifted.room_k, "K", "metric")}, not{" "}
      {quantity(shifted.planned_k, "K", "metric")}: {what} {countdown(is)}
      {next.step !== "gel" && " after mixing"}, not {countdown(was)}.
      {next.step === "weigh" && isWarm && " Cool the parts before you open them, or mix less."}
    </p>
  );
}

/** What damp air does to what is about to be opened. */
function Damp({ pour }: { pour: Pour }) {
  const room = useDeviceOf("room");
  const limit = pour.too_damp_from;
  if (limit === null || room?.rh === undefined || room.rh <= 100 * limit || pour.missed)
    return null;
  return (
    <p className="in-room" role="status">
      The air is damp: {withUnit(room.rh.toFixed(0), "%")}, and from{" "}
      {quantity(limit, "share", "metric")} it foams this resin. Dry the mould, keep the lids on, or
      wait for drier air.
    </p>
  );
}

/** Weighs it on a scale that is there, with nothing to type. */
function OnScale({ pour }: { pour: Pour }) {
  const scale = useDeviceOf("scale");
  const { begin } = useOnScale(pour.id);
  if (!scale) return null;
  return (
    <>
      <Button
        onClick={() => {
          allowSound();
          begin.mutate(scale.id);
        }}
        loading={begin.isPending}
      >
        Weigh it on: {scale.name}
      </Button>
      {begin.error && <Failed error={begin.error} />}
    </>
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
        actual
        <BenchInput
          value={text}
          inputMode="decimal"
          aria-label={`Part ${name}, as measured, in ${unit}`}
          onText={onText}
        />
      </label>
    </div>
  );
}

/** What was pressed is gone with its step: who reads by ear goes on at what to do now. */
function useFocusWhereNone() {
  const place = useRef<HTMLParagraphElement>(null);
  useEffect(() => {
    if (document.activeElement === document.body) place.current?.focus({ preventScroll: true });
  }, []);
  return place;
}

/** A glove presses twice: what has just appeared takes no press for a moment. */
function useArmed(): boolean {
  const [isArmed, arm] = useState(false);
  useEffect(() => {
    const timer = window.setTimeout(() => arm(true), BOUNCE_MS);
    return () => window.clearTimeout(timer);
  }, []);
  return isArmed;
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
      ? {
          label: "pour before",
          from,
          until: secondsOf(coat.times.pour_by),
          over: "pour now, late",
          tone: "late",
        }
      : {
          label: isMelt(pour) ? "thickens in about" : "gels in about",
          from,
          until: secondsOf(coat.times.roll_until),
          over: isMelt(pour) ? "roll until it thickens" : "roll until it gels",
          tone: "roll",
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
        tone: "next",
      }
    : {
        label: "the window closes in",
        from: opens,
        until: secondsOf(before.times.next_until),
        over: "window closed: key the surface",
        tone: "late",
      };
}
