// What the catalogue of generic consumers can fill, and the catalogue itself in and out as CSV.
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { FileDown } from "lucide-react";
import { toast } from "sonner";
import type { Load, Schemas } from "../../api/client";
import { consumersQuery, matchQuery } from "../../api/plans";
import { Button } from "../../parts/Button";
import { FileButton } from "../../parts/FileButton";
import { typed } from "../../parts/format";
import { usePlan } from "../../parts/plan";

export const NAMES_ID = "consumer-names";

/** Names of the catalogue for the name cells, so that typing offers matches by keyboard. */
export function ConsumerNames() {
  const { data } = useQuery(consumersQuery);
  return (
    <datalist id={NAMES_ID}>
      {data?.map((one) => (
        <option key={one.name} value={one.name}>
          {`${typed(one.usual_w)} W`}
        </option>
      ))}
    </datalist>
  );
}

function took(one: Schemas["Consumer"]): string {
  return `${one.name}: ${typed(one.usual_w)} W (${typed(one.low_w)} to ${typed(one.high_w)}), ${typed(one.hours)} h a day`;
}

export function CatalogueBar({ loads }: { loads: Load[] }) {
  const { edit } = usePlan();
  const bare = loads.filter((one) => (one.power_w ?? null) === null && (one.current_a ?? null) === null && one.name !== "New load");
  const { data } = useQuery(matchQuery(bare.map((one) => one.name)));
  const found = bare.flatMap((load, at) => {
    const sure = data?.[at]?.find((one) => one.sure);
    return sure ? [{ load, match: sure }] : [];
  });
  const fill = () => {
    void edit(found.map(({ load, match }) => ({ op: "fill_load", part: load.id, values: match.values as Record<string, string | number | boolean> }))).then(
      (done) => done && toast.success(`Filled from the catalogue: ${found.map(({ load }) => load.name).join(", ")}`),
    );
  };
  if (found.length === 0) return null;
  return (
    <section aria-label="From the catalogue" className="mb-3 border-l-4 border-copper bg-copper-wash p-2 text-sm">
      <p className="font-semibold">The catalogue knows {found.length === 1 ? "one load" : `${found.length} loads`} without figures. Usual figures; the plate of the device wins.</p>
      <ul className="my-1">
        {found.map(({ load, match }) => (
          <li key={load.id}>
            {load.name} ← {took(match.consumer)}
          </li>
        ))}
      </ul>
      <Button look="main" onClick={fill}>
        Fill what is empty
      </Button>
    </section>
  );
}

/** The catalogue out, and a workshop's own consumers in. */
export function CatalogueFiles() {
  const queries = useQueryClient();
  const bringIn = async (file: File) => {
    const answer = await fetch("/api/consumers/import", { method: "POST", headers: { "content-type": "text/csv" }, body: await file.text() });
    if (!answer.ok) {
      const problem = (await answer.json()) as { detail?: string; problems?: { pointer: string; detail: string }[] };
      toast.error([problem.detail, ...(problem.problems ?? []).map((one) => `${one.pointer}: ${one.detail}`)].filter(Boolean).join(". "));
      return;
    }
    await queries.invalidateQueries({ queryKey: ["consumers"] });
    toast.success("The catalogue has your consumers first");
  };
  return (
      <p className="mt-3 flex flex-wrap items-center gap-2 text-sm text-soft">
        Catalogue of generic consumers:
        <a className="inline-flex min-h-11 items-center gap-1 underline" href="/api/consumers/export">
          <FileDown size={16} /> CSV out
        </a>
        <FileButton text="Own ones in" label="Own consumers from CSV" accept=".csv,text/csv" onFile={(file) => void bringIn(file)} />
      </p>
  );
}
