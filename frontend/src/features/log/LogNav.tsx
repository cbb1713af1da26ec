import { NavLink } from "react-router";

/** The views of the log. */
export function LogNav() {
  return (
    <nav className="views" aria-label="Views of the log">
      <NavLink to="/log" end>
        Pours
      </NavLink>
      <NavLink to="/log/runs">Runs</NavLink>
    </nav>
  );
}
