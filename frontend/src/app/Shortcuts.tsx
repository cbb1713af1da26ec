import { Button } from "antd";
import { useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";

import { Dialog } from "../shared/Dialog";
import { useUnits } from "../shared/units";
import { STATIONS } from "./stations";

/** Keys that do something beside the browser's own, and where. */
const KEYS = [
  { keys: ["u"], does: "metric or imperial" },
  { keys: ["Enter"], does: "at the bench and on Today: tick off what is to be done" },
  { keys: ["1", "…", "9"], does: "on Today: the thing with that figure on its button" },
  {
    keys: ["←", "→"],
    does: "on the board: move the task by a quarter of an hour; with Shift an hour",
  },
  { keys: ["↑", "↓"], does: "on the board: give the task to somebody else" },
  { keys: ["←", "→", "↑", "↓"], does: "on the practice tray: tilt and turn the mould" },
  { keys: ["←", "→", "↑", "↓"], does: "on a piece in three dimensions: turn it" },
  { keys: ["+", "-"], does: "on a piece in three dimensions: nearer or further" },
  { keys: ["↑", "↓"], does: "on a girth of the tape: raise or lower it" },
  { keys: ["←", "→"], does: "on a girth of the tape: smaller or larger" },
  { keys: ["Esc"], does: "close a dialog or a menu" },
  { keys: ["?"], does: "this list" },
] as const;

function isTyping(target: EventTarget | null): boolean {
  return target instanceof HTMLElement && Boolean(target.closest("input, textarea, select"));
}

/** Keys for the desk, never needed: listed by `?`. */
export function Shortcuts() {
  const [listed, setListed] = useState(false);
  const going = useRef(false);
  const navigate = useNavigate();
  const toggle = useUnits((state) => state.toggle);

  useEffect(() => {
    function press(event: KeyboardEvent) {
      if (isTyping(event.target) || event.ctrlKey || event.metaKey || event.altKey) return;
      const station = STATIONS.find((one) => going.current && one.key === event.key);
      going.current = event.key === "g";
      if (station) void navigate(station.path);
      else if (event.key === "?") setListed(true);
      else if (event.key === "u") toggle();
    }
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, [navigate, toggle]);

  return (
    <>
      <Button size="small" onClick={() => setListed(true)} title="List the keys">
        Keys ?
      </Button>
      <Dialog title="Keys" open={listed} onClose={() => setListed(false)}>
        <dl className="keys">
          {STATIONS.map((station) => (
            <div key={station.key}>
              <dt>
                <kbd>g</kbd> <kbd>{station.key}</kbd>
              </dt>
              <dd>go to {station.name}</dd>
            </div>
          ))}
          {KEYS.map(({ keys, does }) => (
            <div key={does}>
              <dt>
                {keys.map((key) => (
                  <kbd key={key}>{key}</kbd>
                ))}
              </dt>
              <dd>{does}</dd>
            </div>
          ))}
        </dl>
      </Dialog>
    </>
  );
}
