import { Button } from "antd";
import { useNavigate } from "react-router";

import { STOPS, useTour } from "./tour";

/** What there is to see at this stop of the tour, at the foot of the page. */
export function Tour() {
  const { at, goTo, end } = useTour();
  const navigate = useNavigate();
  const stop = at === null ? undefined : STOPS[at];
  if (at === null || !stop) return null;
  const isLast = at === STOPS.length - 1;
  return (
    <aside className="tour" aria-label="Tour">
      <p className="faint">
        {at + 1} of {STOPS.length}
      </p>
      <div role="status">
        <h2>{stop.title}</h2>
        <p>{stop.says}</p>
      </div>
      <p className="actions">
        <Button disabled={at === 0} onClick={() => goTo(at - 1, navigate)}>
          Back
        </Button>
        {isLast ? (
          <Button type="primary" onClick={end}>
            Done
          </Button>
        ) : (
          <>
            <Button type="primary" onClick={() => goTo(at + 1, navigate)}>
              Next
            </Button>
            <Button type="text" onClick={end}>
              End the tour
            </Button>
          </>
        )}
      </p>
    </aside>
  );
}
