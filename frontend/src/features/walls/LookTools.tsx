import { Button, Select, Slider } from "antd";
import { useEffect, useState } from "react";

import type { Look } from "./Seen";

/** A coat is played through in so long, whatever it takes. */
const PLAYED_IN_MS = 18_000;
const EVERY_MS = 120;

interface Properties {
  coats: number;
  look: Look;
  onLook: (part: Partial<Look>) => void;
}

/** Which coat, cut open where, played back or not. */
export function LookTools({ coats, look, onLook }: Properties) {
  const [runs, setRuns] = useState(false);
  const goesOn = runs && look.playing;
  useEffect(() => {
    if (!goesOn) return;
    const timer = setTimeout(() => {
      const next = look.share + EVERY_MS / PLAYED_IN_MS;
      if (next >= 1) setRuns(false);
      onLook({ share: Math.min(next, 1) });
    }, EVERY_MS);
    return () => clearTimeout(timer);
  }, [goesOn, look.share, onLook]);

  function play() {
    if (goesOn) return setRuns(false);
    setRuns(true);
    onLook({ playing: true, coat: look.coat || 1, share: look.share >= 1 ? 0 : look.share });
  }

  return (
    <div className="wall-tools">
      <div className="field">
        <label htmlFor="wall-coat">Shown</label>
        <Select
          id="wall-coat"
          value={look.coat}
          onChange={(coat: number) => onLook({ coat, playing: look.playing && coat > 0 })}
          options={[
            { value: 0, label: "all coats" },
            ...Array.from({ length: coats }, (_, at) => ({
              value: at + 1,
              label: `coat ${at + 1} alone`,
            })),
          ]}
        />
      </div>
      <Button onClick={play}>{goesOn ? "Hold" : "Play it back"}</Button>
      {look.playing ? (
        <>
          <div className="field wide">
            <label htmlFor="wall-time">From the pour until it has set</label>
            <Slider
              id="wall-time"
              ariaLabelForHandle="Moment of the coat"
              min={0}
              max={100}
              value={Math.round(100 * look.share)}
              onChange={(percent) => onLook({ share: percent / 100 })}
              tooltip={{ open: false }}
            />
          </div>
          <Button onClick={() => onLook({ playing: false })}>The wall again</Button>
        </>
      ) : (
        <div className="field wide">
          <label htmlFor="wall-cut">Cut open from the right</label>
          <Slider
            id="wall-cut"
            ariaLabelForHandle="Where it is cut open"
            min={0}
            max={100}
            value={Math.round(100 * look.cut)}
            onChange={(percent) => onLook({ cut: percent / 100 })}
            tooltip={{ open: false }}
          />
        </div>
      )}
    </div>
  );
}
