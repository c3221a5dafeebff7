// What the meter should say, whether it does, and where to look when it does not.
import { Suspense } from "react";
import { Outlet } from "react-router";
import { Tabs } from "../../parts/Tabs";

const TABS = [
  ["", "Proving list"],
  ["fault", "Find a fault"],
] as const;

export function ProveView() {
  return (
    <section aria-labelledby="prove-title">
      <Tabs title="Prove" id="prove-title" base="prove" label="Views of proving" tabs={TABS}>
        <Suspense fallback={<p className="text-soft">Opening</p>}>
          <Outlet />
        </Suspense>
      </Tabs>
    </section>
  );
}
