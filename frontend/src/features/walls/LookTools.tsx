import { Button, Select, Slider } from "antd";
import { useEffect, useState } from "react";

import type { Look } from "./WallScene";

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
          <ShareSlider
            id="wall-time"
            label="From the pour until it has set"
            handle="Moment of the coat"
            share={look.share}
            onShare={(share) => onLook({ share })}
          />
          <Button onClick={() => onLook({ playing: false })}>The wall again</Button>
        </>
      ) : (
        <ShareSlider
          id="wall-cut"
          label="Cut open from the right"
          handle="Where it is cut open"
          share={look.cut}
          onShare={(cut) => onLook({ cut })}
        />
      )}
    </div>
  );
}

interface ShareProperties {
  id: string;
  label: string;
  handle: string;
  share: number;
  onShare: (share: number) => void;
}

function ShareSlider({ id, label, handle, share, onShare }: ShareProperties) {
  return (
    <div className="field wide">
      <label htmlFor={id}>{label}</label>
      <Slider
        id={id}
        ariaLabelForHandle={handle}
        min={0}
        max={100}
        value={Math.round(100 * share)}
        onChange={(percent) => onShare(percent / 100)}
        tooltip={{ open: false }}
      />
    </div>
  );
}
