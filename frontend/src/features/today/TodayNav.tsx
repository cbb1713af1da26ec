import { NavLink } from "react-router";

/** The views of the days. */
export function TodayNav() {
  return (
    <nav className="views" aria-label="Views of the days">
      <NavLink to="/today" end>
        Now
      </NavLink>
      <NavLink to="/today/board">Board</NavLink>
      <NavLink to="/today/went">Planned and actual</NavLink>
      <NavLink to="/today/offers">Offers</NavLink>
    </nav>
  );
}
