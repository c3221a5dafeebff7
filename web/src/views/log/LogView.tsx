// What was done and when what is due: the vehicle after the build, and the revisions of its plan.
import { Suspense } from "react";
import { Outlet } from "react-router";
import { Tabs } from "../../parts/Tabs";

const TABS = [
  ["", "Vehicle"],
  ["revisions", "Revisions of the plan"],
] as const;

export function LogView() {
  return (
    <section aria-labelledby="log-title">
      <Tabs title="Log" id="log-title" base="log" label="Views of the log" tabs={TABS}>
        <Suspense fallback={<p className="text-soft">Opening</p>}>
          <Outlet />
        </Suspense>
      </Tabs>
    </section>
  );
}
