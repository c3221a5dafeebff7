// Where a part would stand best: every place tried with the whole plan, the best three to be taken.
import { useQuery } from "@tanstack/react-query";
import type { Part } from "../../api/client";
import { bestPlacesQuery } from "../../api/plans";
import { Ask } from "../../parts/Ask";
import { Button } from "../../parts/Button";
import { Fold } from "../../parts/Fold";
import { kilograms, length, percent } from "../../parts/format";
import { usePlan } from "../../parts/plan";

function Best({ part, onTaken }: { part: Part; onTaken: () => void }) {
  const { envelope, edit } = usePlan();
  const { data, error } = useQuery(bestPlacesQuery(envelope.plan_id, envelope.revision, part.id));
  const units = envelope.plan.units ?? "metric";
  if (error) return <p role="alert">{error.message}</p>;
  if (data === undefined) return <p className="text-soft">Trying every place with the whole plan; it takes some seconds</p>;
  return (
    <div className="space-y-2">
      {data.options.length === 0 && <p>No place can hold it with all its runs finding a way.</p>}
      <ol className="space-y-2" aria-label="Best places">
        {data.options.map((one) => (
          <li key={one.place} className="flex flex-wrap items-center gap-3 border border-line p-2">
            <div className="grow basis-56">
              <b className="font-semibold">{one.name}</b> <span className="text-sm text-soft">{one.why}</span>
              <span className="block text-sm">
                copper {kilograms(one.copper_kg)} · worst drop {percent(one.worst_drop_frac)} · longest {length(one.longest_m, units)} · {one.stop} stops, {one.fix} fixes
              </span>
            </div>
            {!one.here && <Button onClick={() => void edit(one.edits).then((done) => done && onTaken())}>Move it there</Button>}
          </li>
        ))}
      </ol>
      {data.left_out > 0 && (
        <p className="text-sm text-soft">
          {data.tried} places were reckoned through; {data.left_out} that lie further off were not.
        </p>
      )}
      {data.refused.length > 0 && (
        <Fold title={`Places that cannot hold it: ${data.refused.length}`}>
          <ul className="list-disc pl-5 text-sm">
            {data.refused.map((line) => (
              <li key={line}>{line}</li>
            ))}
          </ul>
        </Fold>
      )}
    </div>
  );
}

export function BestPlaces({ part, open, onClose }: { part: Part; open: boolean; onClose: () => void }) {
  return (
    <Ask open={open} title={`Best place for ${part.name}`} about="Its runs follow the channels wherever it goes." yes="Leave it where it is" onYes={onClose} onClose={onClose}>
      {open && <Best part={part} onTaken={onClose} />}
    </Ask>
  );
}
