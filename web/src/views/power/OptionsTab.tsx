// Two to four variants of one job side by side: cost, mass, copper, drop, days, findings, and what differs.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { answered, client } from "../../api/client";
import { planQuery } from "../../api/plans";
import { Button } from "../../parts/Button";
import { Ticked } from "../../parts/Checkbox";
import { Fold } from "../../parts/Fold";
import { daysLong, kilograms, money, percent } from "../../parts/format";
import { usePlan } from "../../parts/plan";
import type { VariantName } from "./queries";

const VARIANTS: [VariantName, string][] = [
  ["as_it_is", "As it is"],
  ["volts_12", "12 V"],
  ["volts_24", "24 V"],
  ["lead", "AGM lead bank"],
  ["lithium", "Lithium bank"],
  ["isolator", "Voltage-sensing link"],
  ["dcdc", "DC-DC charger"],
  ["one_cable", "One thick cable"],
  ["two_cables", "Two thinner cables"],
  ["blocks_at_battery", "Blocks at the battery"],
  ["blocks_near_loads", "Blocks near the loads"],
];

export function OptionsTab() {
  const { envelope } = usePlan();
  const cache = useQueryClient();
  const [chosen, setChosen] = useState<VariantName[]>(["as_it_is", "volts_24", "lead"]);
  const path = { plan_id: envelope.plan_id };
  const { data, error, isFetching } = useQuery({
    queryKey: ["options", envelope.plan_id, envelope.revision, chosen],
    queryFn: () => answered(client.POST("/api/plans/{plan_id}/options", { params: { path }, body: { variants: chosen } })),
    enabled: chosen.length >= 2,
    retry: false,
  });
  const take = useMutation({
    mutationFn: (name: VariantName) =>
      answered(client.POST("/api/plans/{plan_id}/options/{name}/take", { params: { path: { ...path, name }, header: { "If-Match": `"${envelope.revision}"` } } })),
    onSuccess: (next) => {
      cache.setQueryData(planQuery(envelope.plan_id).queryKey, next);
      toast.success("Taken as a new revision; undo takes it back");
    },
    onError: (one) => toast.error("Not taken", { description: one.message }),
  });
  const rows: [string, (one: NonNullable<typeof data>[number]) => string][] = [
    ["Cost", (one) => (one.cost === null ? "no prices" : `${money(one.cost)}${one.missing_prices.length > 0 ? ", some prices missing" : ""}`)],
    ["Mass", (one) => kilograms(one.mass_kg)],
    ["Copper", (one) => kilograms(one.copper_kg)],
    ["Worst drop", (one) => `${percent(one.worst_drop_frac)} ${one.worst_drop_tag}`],
    ["Lasts", (one) => daysLong(one.days)],
    ["Stop · fix · look", (one) => `${one.stop} · ${one.fix} · ${one.look}`],
  ];
  return (
    <section aria-label="Options" className="space-y-3">
      <fieldset>
        <legend className="text-sm font-semibold">Compare two to four</legend>
        <div className="flex flex-wrap gap-x-4">
          {VARIANTS.map(([name, label]) => (
            <Ticked
              key={name}
              text={label}
              checked={chosen.includes(name)}
              disabled={!chosen.includes(name) && chosen.length >= 4}
              onChange={(on) => setChosen(on ? [...chosen, name] : chosen.filter((one) => one !== name))}
            />
          ))}
        </div>
      </fieldset>
      {error && <p role="alert" className="border-l-4 border-stop bg-stop-wash p-2">{error.message}</p>}
      {chosen.length < 2 && <p className="border border-dashed border-line bg-sheet p-8 text-center">Tick at least two.</p>}
      {isFetching && <p className="text-soft">Working out the variants</p>}
      {data && chosen.length >= 2 && (
        <div className="relative overflow-x-auto border border-line bg-sheet" tabIndex={0} role="region" aria-label="Variants, scrolls sideways">
          <table className="w-full border-collapse">
            <thead className="bg-zinc">
              <tr>
                <th scope="col" className="head">
                  Variant
                </th>
                {data.map((one) => (
                  <th key={one.name} scope="col" className="head text-left">
                    {one.label}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {rows.map(([name, show]) => (
                <tr key={name} className="border-t border-line">
                  <th scope="row" className="h-10 px-1.5 text-left font-normal">
                    {name}
                  </th>
                  {data.map((one) => (
                    <td key={one.name} className="px-1.5 font-mono whitespace-nowrap">
                      {one.problem === "" ? show(one) : "–"}
                    </td>
                  ))}
                </tr>
              ))}
              <tr className="border-t border-line align-top">
                <th scope="row" className="px-1.5 py-2 text-left font-normal">
                  What differs
                </th>
                {data.map((one) => (
                  <td key={one.name} className="min-w-52 px-1.5 py-2 text-sm">
                    {one.problem !== "" && <p className="text-soft">Not to be had: {one.problem}.</p>}
                    {one.problem === "" && one.differs.length === 0 && <p className="text-soft">nothing: this is the plan</p>}
                    {one.differs.length > 0 && (
                      <>
                        <ul className="list-disc pl-4">
                          {one.differs.slice(0, 8).map((line) => (
                            <li key={line}>{line}</li>
                          ))}
                        </ul>
                        {one.differs.length > 8 && (
                          <Fold title={`all ${one.differs.length}`}>
                            <ul className="list-disc pl-4">
                              {one.differs.slice(8).map((line) => (
                                <li key={line}>{line}</li>
                              ))}
                            </ul>
                          </Fold>
                        )}
                        <Button className="mt-2" disabled={take.isPending} onClick={() => take.mutate(one.name as VariantName)}>
                          Take this one
                        </Button>
                      </>
                    )}
                  </td>
                ))}
              </tr>
            </tbody>
          </table>
        </div>
      )}
      <p className="text-sm text-soft">Cost by the price list: wire, fuses, house batteries, chargers, panels, inverters and distribution; other devices and labour are not counted.</p>
    </section>
  );
}
