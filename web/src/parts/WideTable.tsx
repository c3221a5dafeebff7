// A table that scrolls sideways in its own box where the screen is narrow.
import type { ReactNode } from "react";

export function WideTable({ label, heads, children }: { label: string; heads: [key: string, head: ReactNode][]; children: ReactNode }) {
  return (
    <div className="relative overflow-x-auto border border-line bg-sheet" tabIndex={0} role="region" aria-label={`${label}, scrolls sideways`}>
      <table className="w-full border-collapse">
        <thead className="bg-zinc">
          <tr>
            {heads.map(([key, head]) => (
              <th key={key} scope="col" className="head">
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>{children}</tbody>
      </table>
    </div>
  );
}

export function headsOf(...names: string[]): [string, string][] {
  return names.map((name) => [name, name]);
}
