// The views of one step of the work. Each is an address of its own; the chosen state is kept.
import { Tabs as Radix } from "radix-ui";
import type { ReactNode } from "react";
import { Link, useLocation, useNavigate } from "react-router";

export function Tabs(props: {
  title: string;
  id: string;
  base: string;
  label: string;
  tabs: readonly (readonly [path: string, name: string])[];
  above?: ReactNode;
  children: ReactNode;
}) {
  const { pathname, search } = useLocation();
  const navigate = useNavigate();
  const kept = new URLSearchParams(search).get("state");
  const after = pathname.split(`/${props.base}`)[1]?.replace(/^\/|\/$/g, "") ?? "";
  const to = (path: string) => ({ pathname: path === "" ? "." : path, search: kept === null ? "" : `?state=${kept}` });
  return (
    <Radix.Root value={`at-${after}`} activationMode="manual" onValueChange={(value) => void navigate(to(value.slice(3)))}>
      <div className="mb-3 flex flex-wrap items-center gap-x-4 gap-y-2">
        <h2 id={props.id} className="text-xl font-bold">
          {props.title}
        </h2>
        <Radix.List aria-label={props.label} className="flex flex-wrap">
          {props.tabs.map(([path, name]) => (
            <Radix.Trigger key={path} value={`at-${path}`} asChild>
              <Link
                to={to(path)}
                className="flex min-h-11 items-center px-3 hover:bg-zinc data-[state=active]:bg-sheet data-[state=active]:font-bold data-[state=active]:shadow-[inset_0_-4px_0_var(--copper)]"
              >
                {name}
              </Link>
            </Radix.Trigger>
          ))}
        </Radix.List>
      </div>
      {props.above}
      <Radix.Content value={`at-${after}`} tabIndex={-1}>
        {props.children}
      </Radix.Content>
    </Radix.Root>
  );
}
