import { Button } from "antd";
import { NavLink } from "react-router";

import { useUnits } from "../shared/units";
import { Shortcuts } from "./Shortcuts";
import { STATIONS } from "./stations";

/** The stations, in the order of the work. */
export function Rail() {
  const { system, toggle } = useUnits();
  return (
    <nav className="rail" aria-label="Stations">
      <a className="skip" href="#main">
        Skip to the station
      </a>
      <p className="mark">
        Mild
        <br />
        Husk
      </p>
      {STATIONS.map((station) => (
        <NavLink key={station.path} to={station.path} className="station">
          {station.name}
        </NavLink>
      ))}
      <div className="rail-foot">
        <NavLink to="/workshop" className="station">
          Workshop
        </NavLink>
        <Button size="small" onClick={toggle} title="Metric or imperial">
          {system === "metric" ? "mm · °C" : "in · °F"}
        </Button>
        <Shortcuts />
      </div>
    </nav>
  );
}
