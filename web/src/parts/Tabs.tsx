// The views of one step of the work, as links beside its heading; the chosen state is kept.
import { NavLink, useLocation } from "react-router";

export function Tabs({ label, tabs }: { label: string; tabs: readonly (readonly [path: string, name: string])[] }) {
  const { search } = useLocation();
  const kept = new URLSearchParams(search).get("state");
  return (
    <nav aria-label={label} className="flex flex-wrap">
      {tabs.map(([path, name]) => (
        <NavLink
          key={path}
          end
          to={{ pathname: path === "" ? "." : path, search: kept === null ? "" : `?state=${kept}` }}
          className={({ isActive }) =>
            `flex min-h-11 items-center px-3 ${isActive ? "bg-sheet font-bold shadow-[inset_0_-4px_0_var(--copper)]" : "hover:bg-zinc"}`
          }
        >
          {name}
        </NavLink>
      ))}
    </nav>
  );
}
