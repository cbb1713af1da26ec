import { Button } from "antd";
import { useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";

import { Dialog } from "../shared/Dialog";
import { useUnits } from "../shared/units";
import { STATIONS } from "./stations";

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
          <div>
            <dt>
              <kbd>u</kbd>
            </dt>
            <dd>metric or imperial</dd>
          </div>
          <div>
            <dt>
              <kbd>Enter</kbd>
            </dt>
            <dd>at the bench and on Today: tick off what is to be done</dd>
          </div>
          <div>
            <dt>
              <kbd>1</kbd> to <kbd>9</kbd>
            </dt>
            <dd>on Today: the thing with that figure on its button</dd>
          </div>
          <div>
            <dt>
              <kbd>?</kbd>
            </dt>
            <dd>this list</dd>
          </div>
        </dl>
      </Dialog>
    </>
  );
}
