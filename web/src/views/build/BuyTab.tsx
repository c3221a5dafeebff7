// Everything to buy for the job, what is on the shelf taken off, spares counted in.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Download, Printer } from "lucide-react";
import { toast } from "sonner";
import { answered, client, type Schemas } from "../../api/client";
import { useRecord } from "../../api/record";
import { Button } from "../../parts/Button";
import { number, typed } from "../../parts/format";
import { usePlan } from "../../parts/plan";
import { useNarrow } from "../../parts/useNarrow";
import { headsOf, WideTable } from "../../parts/WideTable";
import { BuyCards } from "./BuyCards";
import { shoppingQuery } from "./queries";
import { ShelfFold } from "./ShelfFold";
import { WiresToBuy } from "./WiresToBuy";

type Line = Schemas["ShopLine"];

const GROUPS: Record<Line["group"], string> = {
  ends: "Lugs and terminals",
  tube: "Heat-shrink",
  fuses: "Fuses and holders",
  holes: "Holes",
  ways: "Along the way",
  labels: "Labels",
  covers: "Covers and boots",
  parts: "Parts",
  devices: "Devices, where the customer has none",
};

const money = (value: number | null) => (value === null ? "no price" : number(value, 2));

function Lines({ lines }: { lines: Line[] }) {
  const narrow = useNarrow();
  if (narrow)
    return (
      <BuyCards
        label="To buy"
        cards={lines.map((one) => ({
          key: `${one.key} ${one.what}`,
          group: GROUPS[one.group],
          what: one.what,
          amount: `${typed(one.buy)}${one.unit === "piece" ? "" : ` ${one.unit}`}`,
          more: [money(one.cost), one.spare > 0 ? `${typed(one.spare)} of them spare` : "", one.on_shelf > 0 ? `${typed(one.on_shelf)} on the shelf` : "", one.supplier].filter((word) => word !== "").join(", "),
        }))}
      />
    );
  return (
    <WideTable label="To buy" heads={headsOf("What", "Buy", "Counted", "Spare", "On the shelf", "Each", "Costs", "From")}>
      {lines.map((one, at) => (
        <tr key={`${one.key} ${one.what}`} className="border-t border-line align-top">
          <td className="px-2 py-1.5">
            {lines[at - 1]?.group !== one.group && <span className="block text-sm font-bold">{GROUPS[one.group]}</span>}
            {one.what}
            <span className="block font-mono text-xs text-soft">{one.key}</span>
          </td>
          <td className="px-2 py-1.5 font-mono whitespace-nowrap">
            <b>{typed(one.buy)}</b> {one.unit === "piece" ? "" : one.unit}
          </td>
          <td className="px-2 py-1.5 font-mono">{number(one.needed, one.unit === "m" ? 2 : 0)}</td>
          <td className="px-2 py-1.5 font-mono">{one.spare > 0 ? typed(one.spare) : ""}</td>
          <td className="px-2 py-1.5 font-mono">{one.on_shelf > 0 ? typed(one.on_shelf) : ""}</td>
          <td className="px-2 py-1.5 font-mono">{one.price === null ? "–" : number(one.price, 2)}</td>
          <td className="px-2 py-1.5 font-mono">{one.cost === null ? "–" : number(one.cost, 2)}</td>
          <td className="px-2 py-1.5 text-sm">{one.supplier}</td>
        </tr>
      ))}
    </WideTable>
  );
}

export function BuyTab() {
  const { envelope } = usePlan();
  const planId = envelope.plan_id;
  const cache = useQueryClient();
  const { data, error } = useQuery(shoppingQuery(planId, envelope.revision));
  const { add } = useRecord(planId);
  const book = useMutation({
    mutationFn: () => answered(client.POST("/api/plans/{plan_id}/shopping/book", { params: { path: { plan_id: planId } } })),
    onSuccess: () => {
      add({ kind: "shelf", subject: "shelf", text: "taken from the shelf; remnants and spares put back" });
      for (const key of ["stock", "shopping", "quote"]) void cache.invalidateQueries({ queryKey: [key] });
      toast.success("The shelf is as it will be after this job");
    },
    onError: (one) => toast.error("The shelf was not changed", { description: one.message }),
  });
  if (error && data === undefined) return <p role="alert" className="border-l-4 border-stop bg-stop-wash p-2">{error.message}</p>;
  if (!data) return <p className="text-soft">Counting, and looking for the cheapest way to buy the wire</p>;
  const link = "inline-flex min-h-11 items-center gap-2 border border-line bg-sheet px-3 font-medium hover:bg-zinc";
  const file = (ending: string) => `/api/plans/${planId}/shopping.${ending}`;
  return (
    <div className="space-y-4">
      <div className="flex flex-wrap items-center gap-2">
        <p className="grow text-lg">
          All together <b className="font-mono">{number(data.cost, 2)}</b> {data.currency}
        </p>
        <a href={file("xlsx")} download className={link}>
          <Download size={18} aria-hidden /> XLSX
        </a>
        <a href={file("csv")} download className={link}>
          <Download size={18} aria-hidden /> CSV
        </a>
        {(["a4", "letter"] as const).map((paper) => (
          <a key={paper} href={`${file("pdf")}?paper=${paper}`} target="_blank" rel="noreferrer" className={link}>
            <Printer size={18} aria-hidden /> {paper === "a4" ? "A4" : "Letter"}
          </a>
        ))}
      </div>
      {data.missing.length > 0 && (
        <p className="border-l-4 border-fix bg-fix-wash p-2">
          No price for {data.missing.slice(0, 12).join(", ")}
          {data.missing.length > 12 && ` and ${data.missing.length - 12} more`}: the sum is without them. Prices stand under Power, Prices.
        </p>
      )}
      {data.no_die.length > 0 && (
        <p className="border-l-4 border-fix bg-fix-wash p-2">
          The crimping tool has no die for {data.no_die.join(", ")}: borrow one, or have those lugs pressed. Its dies stand under Quote.
        </p>
      )}
      {data.wires.length > 0 && <WiresToBuy wires={data.wires} />}
      <section aria-labelledby="rest-title" className="space-y-2">
        <h3 id="rest-title" className="text-lg font-bold">
          Everything else
        </h3>
        {data.lines.length === 0 ? <p className="border border-line bg-sheet p-3">Nothing in the plan yet.</p> : <Lines lines={data.lines} />}
        <p className="text-sm text-soft">Usual studs, grommets and looms; what is stamped on the part in the hand wins.</p>
      </section>
      <ShelfFold />
      {data.back.length > 0 && (
        <section aria-labelledby="back-title" className="space-y-2">
          <h3 id="back-title" className="text-lg font-bold">
            Back to the shelf
          </h3>
          <ul className="grid gap-x-6 sm:grid-cols-2 lg:grid-cols-3">
            {data.back.map((one) => (
              <li key={`${one.key} ${one.length_m}`} className="flex justify-between gap-3 border-b border-line py-1">
                <span>{one.key.replace("wire:", "").replace(":", " ")}</span>
                <span className="font-mono">
                  {one.count > 1 && `${one.count} × `}
                  {number(one.length_m, 2)} m
                </span>
              </li>
            ))}
          </ul>
          <Button disabled={book.isPending} onClick={() => book.mutate()}>
            Book it: this job is bought and cut
          </Button>
        </section>
      )}
    </div>
  );
}
