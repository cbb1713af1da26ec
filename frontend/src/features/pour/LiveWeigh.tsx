import { Button } from "antd";
import { useEffect, useRef } from "react";

import type { Pour } from "../../api/client";
import { useLiveDevice, useLiveWeighing, type LiveWeighing, type Say } from "../../shared/live";
import { weighed, weighedNumber } from "../../shared/format";
import { Failed } from "../../shared/states";
import { useAtScale, useOnScale } from "./queries";
import { sound, type Tone } from "./tones";

const PLAIN: Partial<Record<Say, string>> = {
  empty: "Take everything off the scale",
  cup: "Put the cup on the scale",
  wait: "Reading …",
  back: "Put the cup back on",
  lift: "The scale started anew: lift the cup off, put it back",
  "too-heavy": "Too heavy for this scale",
  lost: "The scale is lost: stop pouring",
  "by-hand": "The scale started anew: weigh this cup by hand",
  done: "Weighed",
};
const TONES: Partial<Record<Say, Tone>> = {
  slowly: "slowly",
  stop: "stop",
  lost: "late",
  "far-over": "late",
  "not-poured": "late",
};

/** A coat on the live scale: what to do, how much is still to come, and nothing to touch. */
export function LiveWeigh({ pour, scale }: { pour: Pour; scale: string }) {
  const weighing = useLiveWeighing(pour.id);
  const device = useLiveDevice(scale);
  const { end } = useOnScale(pour.id);
  const press = useAtScale(pour.id);
  const isHere = weighing?.coat === pour.next_step?.coat;
  const is: LiveWeighing | null = weighing && isHere ? weighing : null;
  const isLost = device?.is_there === false;
  const stepKg = device?.step_kg ?? pour.plan.scale_step_kg;
  const say = isLost ? "lost" : (is?.say ?? "wait");
  useTold(say, is?.poured.length ?? 0);
  const share = is && is.wanted_kg > 0 ? Math.min(is.in_cup_kg / is.wanted_kg, 1.05) : 0;
  const isPart = ["pour", "slowly", "stop", "more", "far-over", "not-poured"].includes(say);

  return (
    <section className={`live-weigh ${say}`} aria-label="Live scale">
      <p className="say" role="status">
        {PLAIN[say] ?? said(say, is?.part ?? "")}
      </p>
      {is && is.part !== "" && (
        <>
          <p className="to-go">
            <b>{weighedNumber(is.left_kg, stepKg)}</b> g of {is.part} to go
          </p>
          <div className="fills" aria-hidden>
            <i style={{ inlineSize: `${(100 * share) / 1.05}%` }} />
            <span className="mark" />
          </div>
          <p className="say-small">
            {weighed(is.in_cup_kg, stepKg)} of {weighed(is.wanted_kg, stepKg)} {is.part}
            {is.poured.map((one) => `, ${one.name} ${weighed(one.kg, stepKg)}`).join("")}
          </p>
        </>
      )}
      <p className="faint">
        {isPart
          ? "It is taken by itself when the scale stands still."
          : `${device?.name ?? "The scale"}${device?.standin ? ", with a simulated hand" : ""}`}
      </p>
      {(press.error ?? end.error) && <Failed error={press.error ?? end.error} />}
      <div className="bench-foot">
        {(say === "cup" || say === "empty") && (
          <Button onClick={() => press.mutate("cup-is-on")}>The cup is on</Button>
        )}
        {["far-over", "not-poured", "more"].includes(say) && (
          <Button onClick={() => press.mutate("accept")}>Take it as it is</Button>
        )}
        <Button type="text" onClick={() => end.mutate(undefined)}>
          Type it in instead
        </Button>
      </div>
    </section>
  );
}

function said(say: Say, part: string): string {
  switch (say) {
    case "pour":
      return `Pour ${part}`;
    case "slowly":
      return `${part}: slowly now`;
    case "more":
      return `A little more ${part}`;
    case "far-over":
      return `Far too much ${part}: the right bottle?`;
    case "not-poured":
      return "Too fast to be poured: lift off what is not the cup";
    default:
      return "Stop";
  }
}

/** Sounds what is told, when it is told anew, and when a part was taken. */
function useTold(say: Say, parts: number) {
  const last = useRef({ say, parts });
  useEffect(() => {
    const tone = parts > last.current.parts ? "taken" : TONES[say];
    if (tone && (say !== last.current.say || parts !== last.current.parts)) sound(tone);
    last.current = { say, parts };
  }, [say, parts]);
}
