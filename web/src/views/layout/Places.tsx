// The places, with what stands at each.
import { usePlan } from "../../parts/plan";

export function Places({ onOpen }: { onOpen: (id: string) => void }) {
  const { envelope } = usePlan();
  const { plan } = envelope;
  const zones = Object.fromEntries(plan.zones.map((zone) => [zone.id, zone.name]));
  const places = plan.places ?? [];
  if (places.length === 0) return <p className="border border-line bg-sheet p-3">No place yet. A place is a spot where things are mounted or channels meet.</p>;
  return (
    <div>
      <h3 className="mb-2 text-lg font-bold">Places</h3>
      <ul className="grid gap-2 @xl:grid-cols-2 @4xl:grid-cols-3" aria-label="Places">
        {places.map((place) => {
          const parts = (plan.parts ?? []).filter((one) => one.place === place.id);
          return (
            <li key={place.id}>
              <button type="button" className="h-full min-h-14 w-full border border-line bg-sheet px-3 py-2 text-left hover:bg-zinc" onClick={() => onOpen(place.id)}>
                <b className="font-semibold">{place.name}</b> <span className="text-sm text-soft">{zones[place.zone]}{place.x_m == null && ", not placed yet"}</span>
                <span className="block text-sm">{parts.length === 0 ? "nothing stands here" : parts.map((one) => one.name).join(", ")}</span>
              </button>
            </li>
          );
        })}
      </ul>
    </div>
  );
}
