// From the plan to the wired van: what to cut, what to buy for it, and the papers to work from.
import { Suspense } from "react";
import { Outlet } from "react-router";
import { Tabs } from "../../parts/Tabs";

const TABS = [
  ["", "Papers"],
  ["cut", "Cut list"],
  ["buy", "To buy"],
  ["quote", "Quote"],
  ["wiring", "Wiring"],
  ["order", "Order of work"],
  ["record", "Record"],
] as const;

export function BuildView() {
  return (
    <section aria-labelledby="build-title">
      <Tabs title="Build" id="build-title" base="build" label="Views of the build" tabs={TABS}>
        <Suspense fallback={<p className="text-soft">Opening</p>}>
          <Outlet />
        </Suspense>
      </Tabs>
    </section>
  );
}
