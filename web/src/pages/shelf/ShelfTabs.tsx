import { NavLink } from 'react-router';

/** What the shop has learned: of parts, and of models. */
export function ShelfTabs() {
  return (
    <nav className="flex flex-wrap gap-1" aria-label="Shelves">
      <NavLink to="/shelf" className="tab">
        Parts
      </NavLink>
      <NavLink to="/models" className="tab">
        Models
      </NavLink>
    </nav>
  );
}
