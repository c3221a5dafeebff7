// The workshop's price list, and what this plan costs by it.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Download } from "lucide-react";
import { useState } from "react";
import { toast } from "sonner";
import { answered, client, type Schemas } from "../../api/client";
import { FileButton } from "../../parts/FileButton";
import { kilograms, money, number, typed } from "../../parts/format";
import { NumberField } from "../../parts/NumberField";
import { usePlan } from "../../parts/plan";
import { Refused } from "../../parts/Refused";
import { headsOf, WideTable } from "../../parts/WideTable";
import { lines, powerQuery, pricesQuery } from "./queries";

type Price = Schemas["Price"];

export function PricesTab() {
  const { envelope } = usePlan();
  const cache = useQueryClient();
  const { data: prices = [] } = useQuery(pricesQuery);
  const { data: power } = useQuery(powerQuery(envelope.plan_id, envelope.revision));
  const [problems, setProblems] = useState<string[]>([]);
  const done = () => {
    setProblems([]);
    void cache.invalidateQueries({ queryKey: ["prices"] });
    void cache.invalidateQueries({ queryKey: ["power"] });
    void cache.invalidateQueries({ queryKey: ["options"] });
  };
  const bring = useMutation({
    mutationFn: (text: string) => answered(client.POST("/api/prices/import", { body: text, bodySerializer: (body) => body, headers: { "content-type": "text/csv" } })),
    onSuccess: (made) => {
      toast.success(`${made.length} prices taken in`);
      done();
    },
    onError: (one) => setProblems(lines(one)),
  });
  const put = useMutation({
    mutationFn: (next: Price[]) => answered(client.PUT("/api/prices", { body: next })),
    onSuccess: done,
    onError: (one) => setProblems(lines(one)),
  });
  const known = new Set(prices.map((one) => one.key));
  const missing = (power?.costs.lines ?? []).filter((one) => !known.has(one.key));
  return (
    <div className="grid gap-6 xl:grid-cols-2">
      <section aria-labelledby="costs-title" className="space-y-2">
        <h3 id="costs-title" className="text-lg font-bold">
          What it costs{power && <span className="ml-3 font-mono">{money(power.costs.total)}</span>}
        </h3>
        {power && (
          <p className="text-sm text-soft">
            {kilograms(power.mass.copper_kg)} copper, {kilograms(power.mass.batteries_kg)} batteries, {kilograms(power.mass.panels_kg)} panels. Other devices and labour are not counted.
          </p>
        )}
        {power && power.costs.missing.length > 0 && (
          <p className="border-l-4 border-fix bg-fix-wash p-2 text-sm">No price for {power.costs.missing.join(", ")}: the sum is without them.</p>
        )}
        <WideTable label="Costs" heads={headsOf("What", "Quantity", "Price", "Sum")}>
          {(power?.costs.lines ?? []).map((one) => (
            <tr key={one.key} className="border-t border-line">
              <th scope="row" className="h-10 px-1.5 text-left font-normal">
                {one.label} <span className="font-mono text-xs text-soft">{one.key}</span>
              </th>
              <td className="px-1.5 text-right font-mono whitespace-nowrap">
                {number(one.quantity, 0)} {one.unit}
              </td>
              <td className="px-1.5 text-right font-mono">{one.price === null ? "–" : typed(one.price)}</td>
              <td className="px-1.5 text-right font-mono">{money(one.total)}</td>
            </tr>
          ))}
        </WideTable>
      </section>
      <section aria-labelledby="prices-title" className="space-y-2">
        <div className="flex flex-wrap items-center gap-2">
          <h3 id="prices-title" className="grow text-lg font-bold">
            Price list of the workshop
          </h3>
          <a className="inline-flex min-h-11 items-center gap-2 border border-line px-3 hover:bg-zinc" href="/api/prices/export" download>
            <Download size={18} aria-hidden /> CSV
          </a>
          <FileButton text="Bring in a CSV" label="CSV of prices" accept=".csv,text/csv" onFile={(file) => void file.text().then((text) => bring.mutate(text))} />
        </div>
        <Refused title="Nothing was changed" problems={problems} />
        {prices.length === 0 && <p className="border border-dashed border-line bg-sheet p-6 text-center">No price yet. Type one below, or bring in a CSV with the columns key and price.</p>}
        <div className="grid gap-2 sm:grid-cols-2">
          {prices.map((one, index) => (
            <NumberField
              key={one.key}
              label={`${one.label}, a ${one.unit}`}
              hint={one.key}
              value={one.price}
              onCommit={(value) => put.mutate(value === null ? prices.filter((_, at) => at !== index) : prices.map((old, at) => (at === index ? { ...old, price: Number(value) } : old)))}
            />
          ))}
          {missing.map((one) => (
            <NumberField
              key={one.key}
              label={`${one.label}, a ${one.unit}`}
              hint={`${one.key}, no price yet`}
              value={null}
              onCommit={(value) => value !== null && put.mutate([...prices, { key: one.key, label: one.label, unit: one.unit, price: Number(value), note: "", supplier: "", currency: prices[0]?.currency ?? "" }])}
            />
          ))}
        </div>
      </section>
    </div>
  );
}
