import { NavLink } from "react-router";

const VIEWS = [
  { path: "/shelf", name: "Resins" },
  { path: "/shelf/supplies", name: "Other supplies" },
  { path: "/shelf/lots", name: "Lots" },
  { path: "/shelf/chain", name: "Choose materials" },
  { path: "/shelf/dabs", name: "Dab tests" },
  { path: "/shelf/buy", name: "What to buy" },
];

/** The views of the shelf. */
export function ShelfNav() {
  return (
    <nav className="views" aria-label="Views of the shelf">
      {VIEWS.map((view) => (
        <NavLink key={view.path} to={view.path} end>
          {view.name}
        </NavLink>
      ))}
    </nav>
  );
}
