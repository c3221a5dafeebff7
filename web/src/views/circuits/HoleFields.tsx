// The holes a run goes through, and how they are made.
import { Plus, Trash2 } from "lucide-react";
import type { Run, Schemas } from "../../api/client";
import { Button } from "../../parts/Button";
import { Fold } from "../../parts/Fold";
import { THROUGH } from "../../parts/holes";
import { Check, Choice } from "../../parts/Labelled";
import { usePlan } from "../../parts/plan";

export function HoleFields({ doc }: { doc: Run }) {
  const { patch } = usePlan();
  const holes: Schemas["Crossing"][] = doc.passes ?? [];
  const path = `/runs/id:${doc.id}/passes`;
  return (
    <Fold title={<b className="font-semibold">Holes it goes through: {holes.length}</b>}>
      <ul className="space-y-2">
        {holes.map((hole, at) => (
          <li key={hole.id ?? at} className="flex flex-wrap items-end gap-2 border-t border-line pt-2">
            <Choice label="Through" value={hole.through} options={THROUGH} onChange={(value) => patch([{ op: "replace", path: `${path}/id:${hole.id}/through`, value }])} />
            <Check label="grommet" checked={hole.grommet ?? true} onChange={(on) => patch([{ op: "add", path: `${path}/id:${hole.id}/grommet`, value: on }])} />
            <Check label="sealed" checked={hole.sealed ?? true} onChange={(on) => patch([{ op: "add", path: `${path}/id:${hole.id}/sealed`, value: on }])} />
            <Button look="quiet" aria-label={`Remove hole ${at + 1}`} onClick={() => void patch([{ op: "remove", path: `${path}/id:${hole.id}` }])}>
              <Trash2 size={18} />
            </Button>
          </li>
        ))}
      </ul>
      <Button className="mt-2" onClick={() => void patch([{ op: "add", path: `${path}/-`, value: { through: "metal" } }])}>
        <Plus size={18} /> Add a hole
      </Button>
    </Fold>
  );
}
