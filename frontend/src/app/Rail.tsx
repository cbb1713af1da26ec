import { Button } from "antd";
import { lazy, Suspense, useEffect, useState } from "react";
import { NavLink, useLocation, useNavigate } from "react-router";

import { useUnits } from "../shared/units";
import { useLook, type Look } from "./look";
import { Shortcuts } from "./Shortcuts";
import { STATIONS } from "./stations";
import { useTour } from "./tour";

/** After the page itself: who sits here knows their name. */
const Somebody = lazy(async () => ({
  default: (await import("../features/access/Somebody")).Somebody,
}));

const LOOK_WORDS: Record<Look, string> = {
  system: "Light or dark",
  light: "Light",
  dark: "Dark",
};
const LOOK_TITLES: Record<Look, string> = {
  system: "As your system has it; press for light",
  light: "Always light; press for dark",
  dark: "Always dark; press for what your system has",
};

/** The stations, in the order of the work: beside the page, and below it on a narrow screen. */
export function Rail() {
  const { system, toggle } = useUnits();
  const { look, turn } = useLook();
  const { pathname } = useLocation();
  const navigate = useNavigate();
  const begin = useTour((state) => state.begin);
  // On a telephone the bar has room for a few; all stand in it while it is opened.
  const [openAt, setOpenAt] = useState<string | null>(null);
  const isOpen = openAt === pathname;
  useEffect(() => {
    if (!isOpen) return;
    const close = (event: KeyboardEvent) => event.key === "Escape" && setOpenAt(null);
    window.addEventListener("keydown", close);
    return () => window.removeEventListener("keydown", close);
  }, [isOpen]);
  return (
    <nav className={isOpen ? "rail open" : "rail"} aria-label="Stations">
      <a className="skip" href="#main">
        Skip to the station
      </a>
      <p className="mark">
        Mild
        <br />
        Husk
      </p>
      <div className="stations">
        {STATIONS.map((station) => (
          <NavLink
            key={station.path}
            to={station.path}
            className={({ isActive }) =>
              ["station", isActive && "active", station.atHand && "at-hand"]
                .filter(Boolean)
                .join(" ")
            }
          >
            {station.name}
          </NavLink>
        ))}
        <NavLink to="/workshop" className="station last">
          Workshop
        </NavLink>
        <button
          type="button"
          className="station at-hand all"
          aria-expanded={isOpen}
          onClick={() => setOpenAt(isOpen ? null : pathname)}
        >
          {isOpen ? "Close" : "More"}
        </button>
      </div>
      <div className="rail-foot">
        <Suspense fallback={null}>
          <Somebody />
        </Suspense>
        <Button size="small" onClick={toggle} title="Metric or imperial">
          {system === "metric" ? "mm · °C" : "in · °F"}
        </Button>
        <Button size="small" onClick={turn} title={LOOK_TITLES[look]}>
          {LOOK_WORDS[look]}
        </Button>
        <Button size="small" onClick={() => begin(navigate)} title="A tour of the stations">
          Tour
        </Button>
        <Shortcuts />
      </div>
    </nav>
  );
}
