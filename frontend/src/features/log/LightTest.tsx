import { useQuery } from "@tanstack/react-query";
import { Select, Slider } from "antd";
import { useState, type ReactNode } from "react";

import { picturesQuery } from "./readingQueries";

/** How a picture lies over the view; shares of it, and degrees. */
const FIRST = { opacity: 50, size: 100, across: 50, up: 50, turn: 0 };
type Laid = typeof FIRST;

const HANDLES: readonly { name: keyof Laid; label: string; from: number; to: number }[] = [
  { name: "opacity", label: "Opacity", from: 0, to: 100 },
  { name: "size", label: "Size", from: 20, to: 300 },
  { name: "across", label: "Left, right", from: 0, to: 100 },
  { name: "up", label: "Up, down", from: 0, to: 100 },
  { name: "turn", label: "Turned", from: -180, to: 180 },
];

interface Properties {
  pour: string;
  children: (over: ReactNode) => ReactNode;
}

/** A picture of the lit cast, laid over the piece by hand: bright places can then be touched. */
export function LightTest({ pour, children }: Properties) {
  const pictures = useQuery(picturesQuery(pour)).data ?? [];
  const [chosen, setChosen] = useState<string | null>(null);
  const [laid, setLaid] = useState(FIRST);
  const over = chosen && (
    <img
      className="laid-over"
      src={`/api/v1/pictures/${chosen}`}
      alt="The lit cast, laid over the piece"
      style={{
        opacity: laid.opacity / 100,
        left: `${laid.across}%`,
        top: `${100 - laid.up}%`,
        transform: `translate(-50%, -50%) rotate(${laid.turn}deg) scale(${laid.size / 100})`,
      }}
    />
  );
  return (
    <>
      {children(over)}
      {pictures.length > 0 && (
        <details className="light-test">
          <summary>Light test: lay a picture of the lit cast over it</summary>
          <div className="field">
            <label htmlFor="light-picture">Picture</label>
            <Select
              id="light-picture"
              allowClear
              placeholder="none"
              value={chosen}
              onChange={(key: string | undefined) => setChosen(key ?? null)}
              options={pictures.map((one, at) => ({
                value: one.id,
                label: one.caption || `Picture ${at + 1}`,
              }))}
            />
          </div>
          {chosen &&
            HANDLES.map((one) => (
              <div key={one.name} className="field">
                <label htmlFor={`light-${one.name}`}>{one.label}</label>
                <Slider
                  id={`light-${one.name}`}
                  ariaLabelForHandle={one.label}
                  min={one.from}
                  max={one.to}
                  value={laid[one.name]}
                  onChange={(value) => setLaid({ ...laid, [one.name]: value })}
                  tooltip={{ open: false }}
                />
              </div>
            ))}
          {chosen && (
            <p className="faint">
              Turn the piece until both lie on each other, then touch what is bright and save it as
              “light comes through”.
            </p>
          )}
        </details>
      )}
    </>
  );
}
