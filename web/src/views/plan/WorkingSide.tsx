// The sheet at the right that shows how one figure came about.
import { useQuery } from "@tanstack/react-query";
import { workingQuery } from "../../api/plans";
import { Side } from "../../parts/Side";
import { WorkingBody } from "../../parts/WorkingBody";

export function WorkingSide(props: { planId: string; revision: number; workingKey: string; onClose: () => void }) {
  const { data: working, error } = useQuery(workingQuery(props.planId, props.revision, props.workingKey));
  return (
    <Side open title={working?.title ?? "Working"} onClose={props.onClose}>
      {error && <p role="alert">{error.message}</p>}
      {working ? <WorkingBody working={working} /> : !error && <p className="text-soft">Looking it up</p>}
    </Side>
  );
}
